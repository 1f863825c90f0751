from django.core.validators import MaxValueValidator
from django.conf import settings
from django.db import models


class Coil(models.Model):
    name = models.CharField(max_length=40, unique=True)
    metres = models.PositiveIntegerField(validators=[MaxValueValidator(settings.LONGEST_COIL)])
    product = models.ForeignKey("catalogue.Product", models.SET_NULL, null=True, blank=True, related_name="coils")

    class Meta:
        ordering = ["metres"]

    def __str__(self):
        return f"{self.name}, {self.metres} m"
