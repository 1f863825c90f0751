from django import forms
from oscar.apps.customer import forms as shop


class EmailUserCreationForm(shop.EmailUserCreationForm):
    berth = forms.CharField(label="Your berth", max_length=12, required=False)

    def clean_berth(self):
        return self.cleaned_data["berth"].upper()
