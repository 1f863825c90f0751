from django.apps import AppConfig


class Notices(AppConfig):
    name = "notices"

    def ready(self):
        from . import listening  # noqa: F401
