from django.db.models import F
from oscar.apps.catalogue.signals import product_viewed
from oscar.apps.order.signals import order_placed
from oscar.core.loading import get_class

basket_addition = get_class("basket.signals", "basket_addition")


def note_view(sender, product, user, request, response, **kwargs):
    from .models import Interest

    Interest.objects.get_or_create(product=product)
    Interest.objects.filter(product=product).update(views=F("views") + 1)


def note_order(sender, order, user, **kwargs):
    from .models import Interest

    for line in order.lines.all():
        Interest.objects.filter(product=line.product).update(orders=F("orders") + 1)


def note_basket(sender, product, user, request, **kwargs):
    request.session["last_looked_at"] = product.pk


def listen():
    product_viewed.connect(note_view, dispatch_uid="signalbook.view")
    order_placed.connect(note_order, dispatch_uid="signalbook.order")
    basket_addition.connect(note_basket, dispatch_uid="signalbook.basket")
