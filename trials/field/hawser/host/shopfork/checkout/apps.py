from django.urls import path
from oscar.apps.checkout import apps
from oscar.core.loading import get_class


class CheckoutConfig(apps.CheckoutConfig):
    name = "shopfork.checkout"

    def ready(self):
        super().ready()
        self.landing_view = get_class("checkout.views", "LandingView")

    def get_urls(self):
        urls = [path("landing/", self.landing_view.as_view(), name="landing")]
        return self.post_process_urls(urls) + super().get_urls()
