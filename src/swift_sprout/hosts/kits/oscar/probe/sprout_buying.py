"""A customer buys: something is put into a basket, and the checkout gone through as far as it lets made up values pass.

What runs then is in no page that anybody can simply open: prices, offers, methods, the checkout's own steps, payment,
order numbers, and whoever listens to orders. Use it in a transaction that is taken back, with nobody to be reached.
"""

import re

from sprout_browsing import Failed, a_browser, forms_of, links_of, name_of
from sprout_causes import start_of

MOST_PAGES = 16
POSTCODES = ("12345", "1234", "N1 9RT", "123456", "1234 AB", "123 45", "12-345", "A1A 1A1")
THANKS = "checkout:thank-you"
LOGS = ("oscar.checkout", "oscar.apps.checkout")


class Buying:
    """One customer of the shop; ``bought`` says whether it thanked for an order, ``found`` what failed."""

    def __init__(self, root):
        self.root = root
        self.browser = a_browser(root)
        self.bought = False
        self.sent = set()  # those of pages whose form was sent
        self.met = set()  # the addresses of the checkout's pages that were gone through

    @property
    def found(self):
        return self.browser.found

    def all(self, product, pages):
        """Buy a product; ``pages`` of the checkout are looked at on the way, with something in the basket."""
        from django.urls import NoReverseMatch
        from oscar.core.loading import get_class

        expected = get_class("payment.exceptions", "PaymentError")
        with self.browser.noting(), self.browser.told_by_log(LOGS, "placing an order", expected):
            self.register()
            try:
                self.fill_basket(product)
                for path in pages:
                    self.look_at(path)
                self.check_out(a_country())
            except (Failed, NoReverseMatch):  # noted, or a shop without that page
                return
            if self.bought:
                self.handle_order()

    def strategy(self, selector):
        """Return what tells a visitor prices and stock; None where there is none, which is noted."""
        from django.contrib.auth.models import AnonymousUser
        from django.test import RequestFactory

        request = RequestFactory().get("/")
        request.user, request.session = AnonymousUser(), {}
        try:
            strategy = selector().strategy(request=request, user=request.user)
        except Exception as error:
            self.browser.note(error, "choosing a strategy")
            return None
        if strategy is None:
            place = start_of(selector.strategy.__code__, self.root)
            chain = [{"kind": "TypeError", "text": f"{selector.__name__}.strategy() returns nothing", "frames": []}]
            error = {"chain": chain, "place": place}
            failed = {"step": "choosing a strategy", "path": "", "view": "", "error": error, "certain": True}
            self.browser.found.append(failed)
        return strategy

    def register(self):
        """Sign up as a new customer."""
        from django.urls import NoReverseMatch, reverse

        visitor = a_browser(self.root, signed_in=False)
        try:
            with visitor.noting():
                page = visitor.open(reverse("customer:register"), "opening the registration")
                for form, path in forms_of(page) if page is not None else ():
                    if name_of(path) == page.name and any("password2" in name for name in form["data"]):
                        emails = {name: ["sprout-new@example.org"] for name in form["data"] if name.endswith("email")}
                        visitor.send_form(page, form, "registering", emails)
        except (Failed, NoReverseMatch):
            pass
        self.browser.found += visitor.found

    def fill_basket(self, product):
        from django.urls import reverse

        self.browser.open(reverse("catalogue:index"), "opening the catalogue")
        self.browser.open(product.get_absolute_url(), "opening a product")
        self.draw(product)
        path, chosen = reverse("basket:add", args=[product.pk]), {"quantity": ["1"], "action": ["add"]}
        self.browser.send(path, chosen, "adding a product to the basket")
        self.browser.open(reverse("basket:summary"), "opening the basket")

    def draw(self, product):
        """Draw a product as lists of products do, which a search engine without its index leaves empty."""
        from django.http import HttpResponse
        from django.template import RequestContext, Template

        request = self.browser.client.get(product.get_absolute_url()).wsgi_request
        template = Template("{% load product_tags %}{% render_product product %}")
        context = RequestContext(request, {"product": product})
        self.browser.asked("", "listing a product", lambda: HttpResponse(template.render(context)))

    def look_at(self, path):
        """Open a page, and send what it asks for."""
        try:
            page = self.browser.open(path, f"checking out ({path})")
            if page is not None and page.path == path:
                self.next_page(page, None)
        except Failed:
            pass

    def check_out(self, country):
        from django.urls import reverse

        page = self.browser.open(reverse("checkout:index"), "starting the checkout")
        for _ in range(MOST_PAGES):
            self.bought = page is not None and page.name == THANKS
            if page is None or self.bought:
                return
            self.met.add(page.path)
            page = self.next_page(page, country)

    def next_page(self, page, country):
        """Go on from a page of the checkout, by its form or a link; returns where that leads, None for nowhere."""
        for form, path in forms_of(page) if page.path not in self.sent else ():
            if path == page.path or name_of(path).startswith("checkout:"):
                self.sent.add(page.path)  # where it comes back, what was typed is not taken
                address = {} if country is None else {"postcode": [a_postcode(country)], "country": [country.pk]}
                return self.browser.send_form(page, form, f"checking out ({path})", address)
        onward = [path for path in links_of(page) if path not in self.met and name_of(path).startswith("checkout:")]
        if country is None or not onward:
            return None
        self.met.add(onward[0])
        return self.browser.open(onward[0], f"checking out ({onward[0]})")

    def handle_order(self):
        """Change the status of the order to each one that may follow it, as staff would."""
        from django.db import transaction
        from oscar.core.loading import get_class, get_model

        handler = get_class("order.processing", "EventHandler")()
        order = get_model("order", "Order").objects.order_by("-pk").first()
        waiting, met = [order.status], {order.status}
        while waiting:
            before = waiting.pop()
            order.status = before
            for status in order.available_statuses():
                try:
                    with transaction.atomic():
                        handler.handle_order_status_change(order, status)
                except Exception as error:
                    self.browser.note(error, f"changing an order to {status}")
                order.status = before
                if status not in met:
                    met.add(status)
                    waiting.append(status)


def a_country():
    """Return a country that the shop sends to, made where it has none."""
    from oscar.core.loading import get_model

    countries = get_model("address", "Country").objects
    found = countries.filter(is_shipping_country=True).first()
    return found or countries.create(
        iso_3166_1_a2="XS", printable_name="Sprout", name="Sprout", is_shipping_country=True
    )


def a_postcode(country):
    """Return a code that addresses of a country take."""
    from oscar.core.loading import get_model

    wanted = getattr(get_model("address", "UserAddress"), "POSTCODES_REGEX", {}).get(country.iso_3166_1_a2)
    return next((code for code in POSTCODES if not wanted or re.match(wanted, code)), POSTCODES[0])


def offer_everything(root_modules):
    """Make an offer on all products, and one for each condition and benefit of the host's own code.

    root_modules -- names of the host's own modules, in which such classes are looked for
    """
    from oscar.core.loading import get_model

    condition, benefit = get_model("offer", "Condition"), get_model("offer", "Benefit")
    everything = get_model("offer", "Range").objects.create(name="sprout all", includes_all_products=True)
    conditions = [condition.objects.create(range=everything, type="Count", value=1)]
    benefits = [benefit.objects.create(range=everything, type="Percentage", value=10)]
    own = [(kind, made) for kind, made in ((condition, conditions), (benefit, benefits))]
    for kind, made in own:
        for one in own_subclasses(kind, root_modules):
            made.append(kind.objects.create(proxy_class=f"{one.__module__}.{one.__name__}"))
    pairs = [*((one, benefits[0]) for one in conditions), *((conditions[0], one) for one in benefits[1:])]
    for number, (needs, gives) in enumerate(pairs):
        name = f"sprout offer {number}"
        get_model("offer", "ConditionalOffer").objects.create(
            name=name, condition=needs, benefit=gives, exclusive=False
        )


def own_subclasses(kind, modules):
    return [one for one in kind.__subclasses__() if one.__module__.startswith(tuple(f"{name}." for name in modules))]
