from django.db import models


class Tender(models.Model):
    name = models.CharField(max_length=60, unique=True)
    seats = models.PositiveSmallIntegerField(default=8)

    def __str__(self) -> str:
        return self.name
