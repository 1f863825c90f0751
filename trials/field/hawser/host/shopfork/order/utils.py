from oscar.apps.order import utils


class OrderNumberGenerator(utils.OrderNumberGenerator):
    def order_number(self, basket):
        return f"HW{super().order_number(basket)}"
