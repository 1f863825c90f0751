from django.db import models
from wagtail.admin.panels import FieldPanel
from wagtail.snippets.models import register_snippet

from pages.models import Colour


@register_snippet
class Signal(models.Model):
    name = models.CharField(max_length=40)
    colour = models.CharField(max_length=5, choices=Colour.choices, default=Colour.RED)

    panels = [FieldPanel("name"), FieldPanel("colour")]

    def __str__(self):
        return self.name
