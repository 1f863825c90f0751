from django.db.models.signals import post_save
from django.dispatch import receiver

from .models import Watch


@receiver(post_save, sender=Watch)
def put_on_watch(sender, instance, **more):
    instance.pilot.on_watch = True
    instance.pilot.save()
