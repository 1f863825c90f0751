"""Swift Sprout makes extension modules for web hosts and proves that the host serves them."""

__version__ = "0.1.0"
