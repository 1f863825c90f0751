from django import forms

LANDINGS = (("north", "North steps"), ("south", "South steps"))


class LandingForm(forms.Form):
    landing = forms.ChoiceField(choices=LANDINGS, widget=forms.RadioSelect)
    note = forms.CharField(max_length=120, required=False)
