from django.db import models


class Dated(models.Model):
    """Whatever knows when it was written down."""

    written = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True
