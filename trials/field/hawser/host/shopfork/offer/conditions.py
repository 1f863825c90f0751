from oscar.apps.offer.models import Condition


class FullCoil(Condition):
    class Meta:
        proxy = True
        app_label = "offer"

    name = description = "A full coil is in the basket"

    def is_satisfied(self, offer, basket):
        return any((line.product.length_m or 0) >= 200 for line in basket.all_lines())

    def consume_items(self, offer, basket, affected_lines):
        return None
