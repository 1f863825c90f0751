from django.db import models


class Pilot(models.Model):
    name = models.CharField(max_length=60)
    on_duty = models.BooleanField(default=False)

    def __str__(self):
        return self.name
