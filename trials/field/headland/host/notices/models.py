from django.db import models
from modelcluster.fields import ParentalKey
from wagtail import blocks
from wagtail.admin.panels import FieldPanel, InlinePanel
from wagtail.fields import StreamField
from wagtail.models import Orderable, Page
from wagtail.search import index


class NoticeIndexPage(Page):
    intro = models.CharField(max_length=200, blank=True)

    content_panels = Page.content_panels + [FieldPanel("intro")]
    parent_page_types = ["pages.HomePage"]
    subpage_types = ["notices.NoticePage"]

    def get_context(self, request, *args, **kwargs):
        context = super().get_context(request, *args, **kwargs)
        context["notices"] = NoticePage.objects.child_of(self).live().order_by("-posted")
        return context


class NoticePage(Page):
    posted = models.DateField()
    body = StreamField([("text", blocks.RichTextBlock()), ("warning", blocks.CharBlock())], blank=True)

    search_fields = Page.search_fields + [index.SearchField("body"), index.FilterField("posted")]
    content_panels = Page.content_panels + [
        FieldPanel("posted"),
        FieldPanel("body"),
        InlinePanel("contacts", label="Whom to ask"),
    ]
    parent_page_types = ["notices.NoticeIndexPage"]


class NoticeContact(Orderable):
    page = ParentalKey(NoticePage, on_delete=models.CASCADE, related_name="contacts")
    who = models.CharField(max_length=60)

    panels = [FieldPanel("who")]
