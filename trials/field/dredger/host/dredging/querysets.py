from django.db import models
from django.db.models import Count, Sum


class CampaignQuerySet(models.QuerySet):
    def running(self):
        return self.filter(ends__isnull=True)

    def with_totals(self):
        return self.annotate(loads_count=Count("loads"), tonnes=Sum("loads__tonnes"))
