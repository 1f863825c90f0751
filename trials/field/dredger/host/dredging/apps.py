from django.apps import AppConfig


class DredgingConfig(AppConfig):
    name = "dredging"

    def ready(self):
        from . import signals  # noqa: F401
