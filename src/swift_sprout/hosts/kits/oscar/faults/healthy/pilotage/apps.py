from django.urls import path
from oscar.core.application import OscarDashboardConfig


class PilotageConfig(OscarDashboardConfig):
    name = "pilotage"
    label = "pilotage"
    namespace = "pilotage"
    verbose_name = "Pilotage"
    default = True
    hidable_feature_name = "pilotage"
    default_auto_field = "django.db.models.BigAutoField"
    permissions_map = {
        "pilot-list": ["is_staff", "pilotage.view_pilot"],
        "pilot-add": (["is_staff", "pilotage.add_pilot"], ["is_superuser"]),
    }

    def ready(self):
        from django.conf import settings

        from . import receivers  # noqa: F401
        from .menu import ENTRY
        from .shipping import add_to_repository

        if ENTRY not in settings.OSCAR_DASHBOARD_NAVIGATION:
            settings.OSCAR_DASHBOARD_NAVIGATION.append(ENTRY)
        add_to_repository()

    def get_urls(self):
        from . import views

        urls = [
            path("", views.on_duty, name="on-duty"),
            path("desk/", views.PilotList.as_view(), name="pilot-list"),
            path("desk/add/", views.AddPilot.as_view(), name="pilot-add"),
        ]
        return self.post_process_urls(urls)
