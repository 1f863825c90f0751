from django import forms

from .models import Signal


class AskForm(forms.ModelForm):
    class Meta:
        model = Signal
        fields = ["name", "flag", "product"]

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["product"].queryset = self.fields["product"].queryset.browsable()
