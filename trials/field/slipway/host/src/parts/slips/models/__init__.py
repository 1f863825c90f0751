from .haul import Haul
from .slip import Slip

__all__ = ["Haul", "Slip"]
