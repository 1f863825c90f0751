from django import forms
from oscar.core.loading import get_model


class CountSearchForm(forms.Form):
    sku = forms.CharField(required=False, label="Number")


class CountForm(forms.ModelForm):
    class Meta:
        model = get_model("partner", "StockRecord")
        fields = ("num_in_stock", "low_stock_threshold")
        labels = {"num_in_stock": "On the shelf"}
