from django.db import models


class Pilot(models.Model):
    """Somebody who brings vessels in."""

    name = models.CharField(max_length=60)
    on_watch = models.BooleanField(default=False)

    class Meta:
        ordering = ["name"]
        permissions = [("plan_watches", "Can plan watches")]

    def __str__(self):
        return self.name


class Watch(models.Model):
    """One turn of a pilot."""

    pilot = models.ForeignKey(Pilot, on_delete=models.CASCADE, related_name="watches")
    begins = models.DateField()

    def __str__(self):
        return f"{self.pilot} from {self.begins}"
