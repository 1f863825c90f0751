from django.db import models
from oscar.core.compat import AUTH_USER_MODEL


class Slate(models.Model):
    order = models.OneToOneField("order.Order", models.CASCADE, related_name="slate")
    owed_by = models.ForeignKey(AUTH_USER_MODEL, models.PROTECT, related_name="slates")
    amount = models.DecimalField(max_digits=10, decimal_places=2)
    wiped = models.DateTimeField(null=True, blank=True)

    class Meta:
        permissions = [("wipe_slate", "Can wipe a slate")]

    def __str__(self):
        return f"{self.order} {self.amount}"
