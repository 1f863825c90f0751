from django.db import models
from wagtail.admin.panels import FieldPanel
from wagtail.contrib.settings.models import BaseSiteSetting, register_setting
from wagtail.fields import RichTextField
from wagtail.models import Page
from wagtail.snippets.models import register_snippet


@register_setting(icon="cog")
class HarbourSettings(BaseSiteSetting):
    telephone = models.CharField(max_length=40, blank=True)
    notice = models.ForeignKey("wagtailcore.Page", models.SET_NULL, null=True, blank=True, related_name="+")

    panels = [FieldPanel("telephone"), FieldPanel("notice")]
    select_related = ["notice"]


@register_snippet
class FooterLine(models.Model):
    text = RichTextField()
    order = models.PositiveSmallIntegerField(default=0)

    panels = [FieldPanel("text"), FieldPanel("order")]

    class Meta:
        ordering = ["order"]


class HomePage(Page):
    lead = models.TextField(blank=True)

    content_panels = Page.content_panels + [FieldPanel("lead")]

    def get_context(self, request, *args, **kwargs):
        from articles.models import ArticlePage

        context = super().get_context(request, *args, **kwargs)
        context["latest"] = ArticlePage.objects.live().descendant_of(self).order_by("-date")[:3]
        return context
