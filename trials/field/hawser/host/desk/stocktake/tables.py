from django_tables2 import A, Column, LinkColumn
from oscar.core.loading import get_class, get_model

DashboardTable = get_class("dashboard.tables", "DashboardTable")


class CountTable(DashboardTable):
    partner_sku = LinkColumn("stocktake:count", args=[A("pk")], verbose_name="Number")
    product = Column(accessor=A("product__title"))

    icon = "fas fa-clipboard"
    caption = "%s counts"

    class Meta(DashboardTable.Meta):
        model = get_model("partner", "StockRecord")
        fields = ("partner_sku", "product", "num_in_stock", "num_allocated")
        sequence = ("partner_sku", "product", "...")
