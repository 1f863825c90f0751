from oscar.apps.order import processing


class EventHandler(processing.EventHandler):
    def handle_order_status_change(self, order, new_status, note_msg=None):
        super().handle_order_status_change(order, new_status, note_msg)
        if new_status == "Handed over":
            self.consume_stock_allocations(order)
