from django.db import models

from .tender import Tender


class Voyage(models.Model):
    tender = models.ForeignKey(Tender, models.PROTECT, related_name="voyages")
    leaves = models.DateTimeField()
    relief = models.BooleanField(default=False)

    class Meta:
        ordering = ["leaves"]

    def __str__(self) -> str:
        return f"{self.tender} at {self.leaves:%H:%M}"
