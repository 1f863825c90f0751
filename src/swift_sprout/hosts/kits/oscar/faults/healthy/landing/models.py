from django.db import models
from oscar.apps.partner.abstract_models import AbstractPartner


class Partner(AbstractPartner):
    landing_place = models.CharField(max_length=40, blank=True, default="")


from oscar.apps.partner.models import *  # noqa: E402, F403
