from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "people"
    verbose_name = "people of the harbour"
