from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "people"
    verbose_name = "Hands of the slipway"
