from django.contrib.auth.models import AbstractUser
from django.db import models


class Hand(AbstractUser):
    """Somebody who works at the slipway, or brings a vessel."""

    nickname = models.CharField(max_length=40, blank=True)

    def called(self):
        return self.nickname or self.get_username()
