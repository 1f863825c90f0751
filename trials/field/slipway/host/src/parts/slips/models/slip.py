from django.db import models
from django.urls import reverse

from .base import Dated


class SlipQuerySet(models.QuerySet):
    def free(self):
        return self.filter(hauls__isnull=True)


class Slip(Dated):
    """A place on which vessels are hauled out."""

    number = models.PositiveSmallIntegerField(unique=True)
    length = models.DecimalField(max_digits=5, decimal_places=1)

    objects = SlipQuerySet.as_manager()

    class Meta:
        ordering = ["number"]

    def __str__(self):
        return f"Slip {self.number}"

    def get_absolute_url(self):
        return reverse("slips:slip", args=[self.number])
