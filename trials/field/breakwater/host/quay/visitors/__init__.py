from .pages import bp

__all__ = ["bp"]
