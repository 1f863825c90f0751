from decimal import Decimal

from oscar.apps.shipping import methods


class ByCart(methods.FixedPrice):
    code = "by-cart"
    name = "By cart along the quay"
    charge_excl_tax = charge_incl_tax = Decimal("3.00")
