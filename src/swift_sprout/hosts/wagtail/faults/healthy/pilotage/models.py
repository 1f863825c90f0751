from django.db import models
from wagtail.admin.panels import FieldPanel, MultiFieldPanel
from wagtail.models import Page
from wagtail.search import index


class Boat(models.Model):
    name = models.CharField(max_length=40)

    class Meta:
        permissions = [("launch_boat", "Launch a boat")]

    def __str__(self):
        return self.name


class RosterPage(Page):
    intro = models.TextField(blank=True)

    content_panels = [*Page.content_panels, FieldPanel("intro")]
    search_fields = [*Page.search_fields, index.SearchField("intro")]
    subpage_types = ["pilotage.PilotPage"]


class PilotPage(Page):
    licence = models.CharField(max_length=20, blank=True)
    boat = models.ForeignKey(Boat, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")

    content_panels = Page.content_panels + [MultiFieldPanel([FieldPanel("licence"), FieldPanel("boat")], "Duty")]
    parent_page_types = ["pilotage.RosterPage"]
    subpage_types = []
