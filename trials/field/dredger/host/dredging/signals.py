from django.db.models import Sum
from django.db.models.signals import post_delete, post_save
from django.dispatch import receiver

from .models import Load, Summary


@receiver([post_save, post_delete], sender=Load)
def summarise(sender, instance, **kwargs):
    total = instance.campaign.loads.aggregate(total=Sum("tonnes"))["total"] or 0
    Summary.objects.update_or_create(campaign=instance.campaign, defaults={"tonnes": total})
