from django.db.models.signals import post_save
from django.dispatch import receiver

from .models import Notice

COUNTED = []


@receiver(post_save, sender=Notice)
def count(sender, instance, **given):
    COUNTED.append(instance.pk)
