from django.db import models
from wagtail.admin.panels import FieldPanel
from wagtail.models import DraftStateMixin, PreviewableMixin, RevisionMixin
from wagtail.search import index


class Person(DraftStateMixin, RevisionMixin, PreviewableMixin, index.Indexed, models.Model):
    name = models.CharField(max_length=80)
    rank = models.CharField(max_length=20, choices=[("pilot", "Pilot"), ("mate", "Mate")], default="mate")
    joined = models.DateField(null=True, blank=True)
    portrait = models.ForeignKey("wagtailimages.Image", models.SET_NULL, null=True, blank=True, related_name="+")

    panels = [FieldPanel("name"), FieldPanel("rank"), FieldPanel("joined"), FieldPanel("portrait")]
    search_fields = [index.SearchField("name"), index.AutocompleteField("name"), index.FilterField("rank")]

    class Meta:
        verbose_name_plural = "people"

    def __str__(self):
        return self.name

    def get_preview_template(self, request, mode_name):
        return "crew/person.html"

    def get_preview_context(self, request, mode_name):
        return {"person": self}
