from django.urls import path
from oscar.core.application import OscarConfig


class SignalbookConfig(OscarConfig):
    name = "signalbook"
    label = "signalbook"
    namespace = "signalbook"
    permissions_map = {"mine": (["is_authenticated"],)}
    login_url = "customer:login"

    def ready(self):
        from . import receivers, views

        self.views = views
        receivers.listen()

    def get_urls(self):
        return self.post_process_urls(
            [
                path("", self.views.SignalsView.as_view(), name="signals"),
                path("mine/", self.views.MineView.as_view(), name="mine"),
                path("ask/", self.views.ask, name="ask"),
            ]
        )
