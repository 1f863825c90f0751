from django.db import models
from django.utils import timezone


class Notice(models.Model):
    """A line that flies over every page until it is taken down."""

    text = models.CharField(max_length=120)
    raised = models.DateTimeField(default=timezone.now)
    down = models.BooleanField(default=False)

    class Meta:
        ordering = ["-raised"]

    def __str__(self):
        return self.text
