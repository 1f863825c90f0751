from django.conf import settings
from django.db import models


class Signal(models.Model):
    name = models.CharField(max_length=60)
    flag = models.CharField(max_length=8, choices=[("A", "Alfa"), ("B", "Bravo")], default="A")
    product = models.ForeignKey("catalogue.Product", models.CASCADE, related_name="signals", null=True, blank=True)
    kept_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, blank=True)

    class Meta:
        ordering = ["name"]

    def __str__(self):
        return self.name


class Interest(models.Model):
    product = models.OneToOneField("catalogue.Product", models.CASCADE)
    views = models.PositiveIntegerField(default=0)
    orders = models.PositiveIntegerField(default=0)
