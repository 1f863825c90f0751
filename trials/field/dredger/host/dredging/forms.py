from django import forms
from django.forms import inlineformset_factory

from .models import Campaign, Load


class CampaignForm(forms.ModelForm):
    class Meta:
        model = Campaign
        fields = ["title", "kind", "begins", "ends", "crew"]
        widgets = {"begins": forms.DateInput(attrs={"type": "date"})}
        labels = {"title": "Name"}

    def clean_title(self):
        title = self.cleaned_data["title"]
        if title.isdigit():
            raise forms.ValidationError("A campaign has a name.")
        return title


LoadFormSet = inlineformset_factory(Campaign, Load, fields=["tonnes", "dumped_at"], extra=1)


class SearchForm(forms.Form):
    q = forms.CharField(required=False, label="Search")
    kind = forms.ChoiceField(required=False, choices=[("", "All"), *Campaign.Kind.choices])
