from django.core.paginator import Paginator
from django.db import models
from django.utils.dateformat import format as date_format
from modelcluster.contrib.taggit import ClusterTaggableManager
from modelcluster.fields import ParentalKey, ParentalManyToManyField
from taggit.models import TaggedItemBase
from wagtail.admin.panels import FieldPanel, InlinePanel, MultiFieldPanel, ObjectList, PageChooserPanel, TabbedInterface
from wagtail.api import APIField
from wagtail.contrib.routable_page.models import RoutablePageMixin, path, re_path
from wagtail.fields import RichTextField, StreamField
from wagtail.models import Orderable, Page
from wagtail.search import index
from wagtail.snippets.models import register_snippet

from .blocks import BodyBlock


class ArticleTag(TaggedItemBase):
    content_object = ParentalKey("ArticlePage", on_delete=models.CASCADE, related_name="tagged_items")


@register_snippet
class Topic(models.Model):
    name = models.CharField(max_length=60)
    slug = models.SlugField(unique=True)

    panels = [FieldPanel("name"), FieldPanel("slug")]

    class Meta:
        ordering = ["name"]

    def __str__(self):
        return self.name


class ArticleIndexPage(RoutablePageMixin, Page):
    intro = RichTextField(blank=True)

    content_panels = Page.content_panels + [FieldPanel("intro")]
    parent_page_types = ["site_parts.HomePage"]
    subpage_types = ["articles.ArticlePage"]
    max_count = 1

    def articles(self):
        return ArticlePage.objects.child_of(self).live().order_by("-date")

    def get_context(self, request):
        context = super().get_context(request)
        context["articles"] = Paginator(self.articles(), 10).get_page(request.GET.get("page"))
        return context

    @path("topic/<slug:topic>/", name="by_topic")
    def by_topic(self, request, topic):
        return self.render(request, context_overrides={"articles": self.articles().filter(topics__slug=topic)})

    @re_path(r"^year/(\d{4})/$", name="by_year")
    def by_year(self, request, year):
        found = self.articles().filter(date__year=year)
        return self.render(request, context_overrides={"articles": found}, template="articles/year.html")


class ArticlePage(Page):
    date = models.DateField("Published on")
    intro = models.CharField(max_length=250)
    body = StreamField(BodyBlock(), blank=True)
    topics = ParentalManyToManyField(Topic, blank=True)
    tags = ClusterTaggableManager(through=ArticleTag, blank=True)
    picture = models.ForeignKey("wagtailimages.Image", models.SET_NULL, null=True, blank=True, related_name="+")

    search_fields = Page.search_fields + [
        index.SearchField("intro"),
        index.SearchField("body"),
        index.FilterField("date"),
        index.FilterField("first_published_at"),
        index.FilterField("owner"),
        index.AutocompleteField("title"),
        index.FilterField("when_shown"),
    ]
    api_fields = [APIField("date"), APIField("intro"), APIField("body")]
    content_panels = Page.content_panels + [
        MultiFieldPanel([FieldPanel("date"), FieldPanel("topics"), FieldPanel("tags")], heading="About"),
        FieldPanel("intro"),
        FieldPanel("picture"),
        FieldPanel("body"),
    ]
    link_panels = [InlinePanel("related_links", label="Links", max_num=5)]
    edit_handler = TabbedInterface(
        [
            ObjectList(content_panels, heading="Content"),
            ObjectList(link_panels, heading="Links"),
            ObjectList(Page.promote_panels, heading="Promote"),
            ObjectList(Page.settings_panels, heading="Settings"),
        ]
    )
    parent_page_types = ["articles.ArticleIndexPage"]
    subpage_types = []

    def get_context(self, request):
        context = super().get_context(request)
        context["others"] = self.get_siblings(inclusive=False).live().specific()[:3]
        return context

    @property
    def when_shown(self):
        return self.date

    def when(self):
        return date_format(self.date, "j F Y")


class RelatedLink(Orderable):
    page = ParentalKey(ArticlePage, on_delete=models.CASCADE, related_name="related_links")
    name = models.CharField(max_length=100)
    target = models.ForeignKey("wagtailcore.Page", models.CASCADE, related_name="+")

    panels = [FieldPanel("name"), PageChooserPanel("target")]
