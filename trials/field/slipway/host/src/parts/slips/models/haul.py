from django.conf import settings
from django.db import models

from .base import Dated


class Haul(Dated):
    """A vessel that stands on a slip."""

    vessel = models.CharField(max_length=60)
    slip = models.ForeignKey("slips.Slip", on_delete=models.PROTECT, related_name="hauls")
    hand = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, blank=True)

    class Meta:
        permissions = [("order_haul", "Can order a haul")]

    def __str__(self):
        return self.vessel
