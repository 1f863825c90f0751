from django.db import models
from wagtail.admin.panels import FieldPanel
from wagtail.fields import RichTextField
from wagtail.models import Page


class HomePage(Page):
    greeting = RichTextField(blank=True)

    content_panels = Page.content_panels + [FieldPanel("greeting")]
    subpage_types = ["notices.NoticeIndexPage"]


class Colour(models.TextChoices):
    RED = "red", "Red"
    GREEN = "green", "Green"
