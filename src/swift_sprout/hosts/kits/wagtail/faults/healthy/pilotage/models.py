from django.db import models
from wagtail.admin.panels import FieldPanel, MultiFieldPanel
from wagtail.blocks import CharBlock, StructBlock
from wagtail.contrib.routable_page.models import RoutablePageMixin, path
from wagtail.contrib.settings.models import BaseSiteSetting, register_setting
from wagtail.fields import StreamField
from wagtail.models import Page
from wagtail.search import index


class NoteBlock(StructBlock):
    text = CharBlock()

    class Meta:
        template = "pilotage/note_block.html"


@register_setting
class PilotFees(BaseSiteSetting):
    per_metre = models.DecimalField(max_digits=6, decimal_places=2, default=4)


class Boat(models.Model):
    name = models.CharField(max_length=40)
    picture = models.ForeignKey(
        "wagtailimages.Image", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )

    class Meta:
        permissions = [("launch_boat", "Launch a boat")]

    def __str__(self):
        return self.name


class RosterPage(RoutablePageMixin, Page):
    intro = models.TextField(blank=True)
    notes = StreamField([("note", NoteBlock())], blank=True)

    content_panels = [*Page.content_panels, FieldPanel("intro"), FieldPanel("notes")]
    search_fields = [*Page.search_fields, index.SearchField("intro")]
    subpage_types = ["pilotage.PilotPage"]

    @path("tonight/", name="tonight")
    def tonight(self, request):
        return self.render(request)

    def get_context(self, request, *args, **kwargs):
        context = super().get_context(request, *args, **kwargs)
        context["boats"] = Boat.objects.all()
        return context


class PilotPage(Page):
    licence = models.CharField(max_length=20, blank=True)
    boat = models.ForeignKey(Boat, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")

    content_panels = Page.content_panels + [MultiFieldPanel([FieldPanel("licence"), FieldPanel("boat")], "Duty")]
    parent_page_types = ["pilotage.RosterPage"]
    subpage_types = []
