from .tender import Tender
from .voyage import Voyage

__all__ = ["Tender", "Voyage"]
