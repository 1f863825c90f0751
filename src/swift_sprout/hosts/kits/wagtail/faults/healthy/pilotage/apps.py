from django.apps import AppConfig


class PilotageConfig(AppConfig):
    name = "pilotage"
    verbose_name = "Pilotage"
