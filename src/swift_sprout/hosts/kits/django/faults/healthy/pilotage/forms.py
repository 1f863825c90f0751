from django import forms

from .models import Watch


class WatchForm(forms.ModelForm):
    class Meta:
        model = Watch
        fields = ["pilot", "begins"]

    def clean_begins(self):
        begins = self.cleaned_data["begins"]
        if begins.year < 2000:
            raise forms.ValidationError("No watch was kept before 2000.")
        return begins
