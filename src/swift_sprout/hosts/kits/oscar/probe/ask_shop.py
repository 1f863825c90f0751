"""Asks a running shop what the Django probe asks, and what is sold there: kinds, methods, offers, the dashboard's menu.

What must be written to be asked (a basket, people with rights) is written in a transaction that is rolled back.
"""

import json
import os
import sys

import ask
from sprout_apart import databases_apart
from sprout_buying import Buying, offer_everything
from sprout_inside import nobody_outside, told
from sprout_rows import MADE, files_elsewhere


class AskShop(ask.Ask):
    ASIDE = (*ask.Ask.ASIDE, "shop", "buying")
    HOLDER = (("is_active", True), ("is_staff", True))

    def databases(self):
        """Put copies in the place of all that the shop writes beside its database: search index, pictures."""
        import shutil

        from django.conf import settings

        told = super().databases()
        sys.modules["swift_sprout_shop"] = sys.modules[__name__]
        settings.OSCAR_THUMBNAILER = "swift_sprout_shop.NoThumbnails"
        media = os.path.join(self.question["scratch"], "media")
        os.mkdir(media)
        if settings.MEDIA_ROOT and os.path.isdir(settings.MEDIA_ROOT):
            for name in os.listdir(settings.MEDIA_ROOT):
                os.symlink(os.path.abspath(os.path.join(settings.MEDIA_ROOT, name)), os.path.join(media, name))
        settings.MEDIA_ROOT = media
        settings.HAYSTACK_SIGNAL_PROCESSOR = "haystack.signals.BaseSignalProcessor"
        for name, connection in (getattr(settings, "HAYSTACK_CONNECTIONS", None) or {}).items():
            if connection.get("PATH"):
                copy = os.path.join(self.question["scratch"], f"search-{name}")
                if os.path.isdir(connection["PATH"]):
                    shutil.copytree(connection["PATH"], copy)
                connection["PATH"] = copy
        return told

    def routes(self):
        """Tell the addresses, each with what its config asks for."""
        from django.apps import apps

        found = super().routes()
        asked = self.answers["host_pages"]
        asked += [path for path in self.shop_pages() if path not in asked]
        configs = {config.name: config for config in apps.get_app_configs()}
        for entry in found:
            config = configs.get(entry["module"])
            get = getattr(config, "get_permissions", None)
            if get is None:
                continue
            entry["guard"] = get(entry["name"].rpartition(":")[2] or None)
            rights = {one for one in flattened(entry["guard"]) if "." in one}
            entry["permission"] = rights.pop() if len(rights) == 1 else ""
        return found

    def shop_pages(self):
        """Return the addresses of pages that customers see blocks on: the catalogue, a product, the basket."""
        from django.db import connection
        from django.urls import NoReverseMatch, reverse
        from oscar.core.loading import get_model

        found = []
        for name in ("catalogue:index", "basket:summary"):
            try:
                found.append(reverse(name))
            except NoReverseMatch:  # a shop that has put something else there
                pass
        try:
            product = get_model("catalogue", "Product").objects.browsable().first()
            if product is not None:
                give_kind(product)
                found.append(product.get_absolute_url())
        except Exception:  # its table, or its address: told by what asks for that
            pass
        connection.close()
        return found

    def shop(self):
        """Tell what the shop sells and offers, for each asked module."""
        from django.db import connection, transaction

        told = {}
        for name in ("kinds", "offers"):  # not told at all where they cannot be asked, such as without their tables
            found = self.tried(getattr(self, name))
            if "error" not in found:
                told[name] = found
        with transaction.atomic():
            told["navigation"] = self.tried(self.navigation)
            told["baskets"] = {name: self.tried(self.basket, name) for name in self.question["modules"]}
            transaction.set_rollback(True)
        told["configs"] = self.configs()
        connection.close()
        return told

    def buying(self):
        """Let a customer buy something, in copies of the databases; returns what failed, and whether it was bought."""
        from django.conf import settings
        from django.db import transaction

        if not self.all_is_harmless():
            return {"failed": [], "bought": False}
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]  # the usual ones are slow
        apart = databases_apart(self.question["scratch"])
        with nobody_outside(), files_elsewhere(self.scratch), apart, transaction.atomic():
            try:
                return self.bought(self.own_apps())
            finally:
                transaction.set_rollback(True)

    def bought(self, own):
        """Let a customer buy a product of a shop with offers; ``own`` are the names of the host's own modules."""
        from oscar.core.loading import get_class

        customer = Buying(self.root)
        strategy = customer.strategy(get_class("partner.strategy", "Selector"))
        if strategy is None:
            return {"failed": customer.found, "bought": False}
        product = self.tried(lambda: self.product(self.kinds_of({})[0], strategy, []))
        if isinstance(product, dict) or "error" in (self.tried(offer_everything, own) or {}):
            return {"failed": customer.found, "bought": False}  # what is asked for is more than can be made up
        pages = [one["path"] for one in self.answers.get("routes", ()) if one["name"].startswith("checkout:")]
        customer.all(product, [path for path in pages if path])
        return {"failed": customer.found, "bought": customer.bought}

    def tried(self, function, *arguments):
        """Return what a function tells, or the error that it raised; what it wrote is taken back then."""
        from django.db import transaction

        try:
            with transaction.atomic():
                return function(*arguments)
        except Exception as error:
            return {"error": told(error, self.root)}

    def configs(self):
        """Tell which package each of the host's own apps is taken from, and whether it can be overridden."""
        from django.apps import apps

        return {
            config.label: {
                "name": config.name,
                "kind": f"{type(config).__module__}.{type(config).__qualname__}",
                "dashboard": any(base.__name__ == "OscarDashboardConfig" for base in type(config).__mro__),
                "shop": any(base.__name__ == "OscarConfigMixin" for base in type(config).__mro__),
            }
            for config in apps.get_app_configs()
        }

    def kinds(self):
        from oscar.core.loading import get_model

        return {
            kind.name: {
                "shipped": kind.requires_shipping,
                "stocked": kind.track_stock,
                "attributes": {one.code: {"type": one.type, "required": one.required} for one in kind.attributes.all()},
                "products": kind.products.count(),
            }
            for kind in get_model("catalogue", "ProductClass").objects.all()
        }

    def offers(self):
        from oscar.core.loading import get_model

        found = {}
        for offer in get_model("offer", "ConditionalOffer").objects.select_related("condition", "benefit"):
            covered = offer.condition.range
            found[offer.name] = {
                "status": offer.status,
                "available": offer.is_available(),
                "kind": offer.offer_type,
                "begins": offer.start_datetime,
                "ends": offer.end_datetime,
                "at_least": float(offer.condition.value or 0),
                "value": float(offer.benefit.value or 0),
                "exclusive": offer.exclusive,
                "everything": bool(covered and covered.includes_all_products),
                "classes": [one.name for one in covered.classes.all()] if covered else [],
                "covered": covered.all_products().count() if covered else 0,
            }
        return found

    def navigation(self):
        """Tell the addresses that the dashboard's menu shows to staff without rights, with the modules', and to all."""
        from django.apps import apps
        from django.contrib.auth import get_user_model
        from oscar.core.loading import get_class

        get_nodes = get_class("dashboard.menu", "get_nodes")
        by_name = {config.name: config for config in apps.get_app_configs()}
        shown, shown_to = {}, {}
        people = [("staff", ""), *(("holder", name) for name in self.question["modules"]), ("superuser", "")]
        for number, (who, module) in enumerate(people):
            config = by_name.get(module)
            asked_for = [*getattr(config, "permissions_map", {}).values(), getattr(config, "default_permissions", None)]
            rights = frozenset(one for guard in asked_for for one in flattened(guard) if "." in one)
            alike = (rights, who == "superuser")  # those who hold the same see the same
            if alike not in shown_to:
                user = get_user_model()(is_active=True, is_staff=True, is_superuser=who == "superuser")
                setattr(user, user.USERNAME_FIELD, f"sprout-menu-{number}")
                user.email = f"sprout-menu-{number}@example.org"
                ask.fill(user)
                user.set_unusable_password()
                user.save()
                for right in rights:
                    ask.grant(user, right)
                entries = [one for node in get_nodes(user) for one in (node, *node.children)]
                shown_to[alike] = [one.url_name for one in entries if one.url_name]
            shown[f"{who} {module}".strip()] = shown_to[alike]
        return {"shown": shown}

    def basket(self, module):
        """Fill a basket with what a module sells, and tell which methods and offers are given for it."""
        from decimal import Decimal

        from oscar.core.loading import get_class, get_model

        wanted = self.wanted(module)
        if wanted is None:
            return None
        strategy = get_class("partner.strategy", "Selector")().strategy()
        basket = get_model("basket", "Basket").objects.create()
        basket.strategy = strategy
        unsold = []
        at_least = max([entry.get("at_least") or 1 for entry in wanted.get("offers", ())], default=1)
        for kind in self.kinds_of(wanted):
            product = self.product(kind, strategy, unsold)
            basket.add_product(product, int(at_least))
        get_class("offer.applicator", "Applicator")().apply(basket)
        repository = get_class("shipping.repository", "Repository")()
        methods = []
        for method in repository.get_shipping_methods(basket=basket, user=None, request=None, shipping_addr=None):
            entry = {"code": method.code, "name": str(method.name), "module": type(method).__module__}
            entry["class"] = type(method).__qualname__
            try:
                price = method.calculate(basket)
                entry["price"] = None if price is None or price.excl_tax is None else str(price.excl_tax)
                entry["below_zero"] = price is not None and (price.excl_tax or 0) < Decimal(0)
                entry["currency"] = getattr(price, "currency", "")
            except Exception as error:
                entry["error"] = told(error, self.root)
            methods.append(entry)
        applied = basket.offer_applications
        return {
            "methods": methods,
            "repository": f"{type(repository).__module__}.{type(repository).__qualname__}",
            "currency": basket.currency,
            "offers": {one["name"]: str(one["discount"]) for one in applied.offer_discounts},
            "post_offers": [one["name"] for one in applied.post_order_actions],
            "unsold": unsold,
        }

    def wanted(self, module):
        """Return what a module's shop_data.json says; an empty one for modules with shipping methods alone."""
        from django.apps import apps

        config = next((one for one in apps.get_app_configs() if one.name == module), None)
        if config is None:
            return None
        try:
            with open(os.path.join(config.path, "shop_data.json"), encoding="utf-8") as handle:
                return json.load(handle)
        except OSError:
            return {} if os.path.exists(os.path.join(config.path, "shipping.py")) else None
        except ValueError:
            return None

    def kinds_of(self, wanted):
        """Return the module's kinds of products that are there; one made for the question where there is none."""
        from oscar.core.loading import get_model

        kinds = get_model("catalogue", "ProductClass")
        names = [entry["name"] for entry in wanted.get("kinds", ())]
        there = list(kinds.objects.filter(name__in=names, requires_shipping=True)) or list(
            kinds.objects.filter(name__in=names)
        )
        return there or [kinds.objects.create(name="sprout probe", requires_shipping=True, track_stock=False)]

    def product(self, kind, strategy, unsold):
        """Return a product of a kind that can be bought, made for the question where there is none."""
        from oscar.core.loading import get_model

        for product in kind.products.all()[:50]:
            info = strategy.fetch_for_product(product)
            if product.is_public and info.availability.is_available_to_buy:
                return product
            reason = "is not public" if not product.is_public else self.why_unsold(product, info)
            unsold.append({"title": product.get_title(), "kind": kind.name, "reason": reason})
        product = get_model("catalogue", "Product")(product_class=kind, title="sprout probe")
        product.is_public, product.structure = True, product.STANDALONE
        ask.fill(product)  # a shop's own products may have to have more
        product.save()
        partner = get_model("partner", "Partner").objects.create(name="sprout probe")
        product.stockrecords.create(partner=partner, partner_sku="sprout", price=100, num_in_stock=1000)
        return product

    def why_unsold(self, product, info):
        if not product.stockrecords.exists():
            return "has no stock record, and so no price"
        return "has no stock" if info.price.exists else "has no price"


class NoThumbnails:
    """Stands for what makes small pictures, which would be written beside the large ones."""

    def generate_thumbnail(self, source, **options):
        return type("Picture", (), {"url": getattr(source, "url", str(source)), "width": 1, "height": 1})()

    def delete_thumbnails(self, source):
        pass


def flattened(permissions):
    """Return the rights and flags of a config's permissions: a list, or a tuple of lists."""
    if not permissions:
        return []
    if isinstance(permissions, (list, tuple)):
        found = []
        for one in permissions:
            found += [one] if isinstance(one, str) else flattened(one)
        return found
    return [str(permissions)]


def give_kind(product):
    """Give a product that was made up a kind, as each one of a shop has: its page is drawn by that."""
    from oscar.core.loading import get_model

    if product in MADE and product.product_class_id is None:
        product.product_class = get_model("catalogue", "ProductClass").objects.create(name="Sample")
        MADE.insert(0, product.product_class)  # taken away after the product, which points to it
        type(product).objects.filter(pk=product.pk).update(product_class=product.product_class)


def main():
    ask.main(AskShop)
