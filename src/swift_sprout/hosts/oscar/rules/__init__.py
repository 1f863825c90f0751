"""The rules of the django-oscar kit."""

STATIC = ()
LIVE = ()
