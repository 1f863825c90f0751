from django.contrib import messages
from django.shortcuts import redirect
from django.views.generic import UpdateView
from django_tables2 import SingleTableView
from oscar.core.loading import get_model

from .forms import CountForm, CountSearchForm
from .tables import CountTable

StockRecord = get_model("partner", "StockRecord")


class CountsView(SingleTableView):
    template_name = "stocktake/counts.html"
    table_class = CountTable
    context_table_name = "counts"

    def get_queryset(self):
        records = StockRecord.objects.select_related("product", "partner").order_by("partner_sku")
        self.form = CountSearchForm(self.request.GET)
        if self.form.is_valid() and self.form.cleaned_data["sku"]:
            records = records.filter(partner_sku__istartswith=self.form.cleaned_data["sku"])
        return records

    def get_context_data(self, **kwargs):
        return super().get_context_data(form=self.form, **kwargs)


class CountView(UpdateView):
    model = StockRecord
    form_class = CountForm
    template_name = "stocktake/count.html"
    context_object_name = "record"

    def form_valid(self, form):
        form.save()
        messages.success(self.request, f"Counted {self.object.partner_sku}.")
        return redirect("stocktake:counts")
