import logging

from django.dispatch import receiver
from oscar.apps.order.signals import order_placed

log = logging.getLogger(__name__)


@receiver(order_placed)
def tell_the_pilots(sender, order, user, **kwargs):
    log.info("an order for the launch: %s", order.number)
