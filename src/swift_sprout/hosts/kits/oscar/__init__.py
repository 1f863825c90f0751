"""The django-oscar kit: Django modules in a shop, and what differs there."""
