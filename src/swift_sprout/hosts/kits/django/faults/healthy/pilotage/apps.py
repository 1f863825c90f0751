from django.apps import AppConfig


class PilotageConfig(AppConfig):
    name = "pilotage"
    verbose_name = "Pilots"

    def ready(self):
        from . import listeners  # noqa: F401
