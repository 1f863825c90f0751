from django.db import models
from oscar.apps.catalogue.abstract_models import AbstractProduct


class Product(AbstractProduct):
    length_m = models.PositiveIntegerField("length in metres", null=True, blank=True)
    tarred = models.BooleanField(default=False)

    def get_title(self):
        title = super().get_title()
        return f"{title} ({self.length_m} m)" if self.length_m else title


from oscar.apps.catalogue.models import *  # noqa: E402, F403
