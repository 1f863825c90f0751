from django.apps import AppConfig


class SlateConfig(AppConfig):
    name = "slate"
    default_auto_field = "django.db.models.BigAutoField"
