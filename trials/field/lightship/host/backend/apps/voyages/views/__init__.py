from .lists import VoyageList

__all__ = ["VoyageList"]
