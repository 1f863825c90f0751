from .board import Board, SlipPage
from .orders import Order

__all__ = ["Board", "Order", "SlipPage"]
