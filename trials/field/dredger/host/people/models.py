from django.contrib.auth.models import AbstractUser
from django.db import models


class Keeper(AbstractUser):
    badge = models.CharField(max_length=20, blank=True)
    station = models.CharField(max_length=60, blank=True)

    def get_short_name(self):
        return self.badge or super().get_short_name()
