from django.db import models
from django.urls import reverse


class Buoy(models.Model):
    number = models.PositiveSmallIntegerField(unique=True)
    colour = models.CharField(max_length=10, choices={"red": "Red", "green": "Green"})
    lat = models.FloatField()
    lon = models.FloatField()
    near = models.ForeignKey("dredging.Campaign", models.SET_NULL, null=True, blank=True)

    class Meta:
        ordering = ["number"]
        verbose_name_plural = "buoys"

    def __str__(self):
        return f"Buoy {self.number}"

    def get_absolute_url(self):
        return reverse("buoyage:buoy", args=[self.number])
