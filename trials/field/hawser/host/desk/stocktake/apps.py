from django.urls import path
from oscar.core.application import OscarDashboardConfig
from oscar.core.loading import get_class


class StocktakeConfig(OscarDashboardConfig):
    name = "desk.stocktake"
    label = "stocktake"
    namespace = "stocktake"
    default_permissions = ["is_staff"]
    permissions_map = {
        "counts": (["is_staff"], ["partner.dashboard_access"]),
        "count": ["is_staff"],
    }

    def ready(self):
        self.counts_view = get_class("stocktake.views", "CountsView", module_prefix="desk")
        self.count_view = get_class("stocktake.views", "CountView", module_prefix="desk")

    def get_urls(self):
        urls = [
            path("", self.counts_view.as_view(), name="counts"),
            path("<int:pk>/", self.count_view.as_view(), name="count"),
        ]
        return self.post_process_urls(urls)
