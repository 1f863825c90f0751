from oscar.apps.shipping import apps


class ShippingConfig(apps.ShippingConfig):
    name = "shipping"
