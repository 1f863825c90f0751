"""Fills an empty site with a few pages: python fill.py."""

import datetime
import json
import os

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "gannet.settings.dev")

import django  # noqa: E402

django.setup()

from articles.models import ArticleIndexPage, ArticlePage, RelatedLink, Topic  # noqa: E402
from crew.models import Person  # noqa: E402
from enquiries.models import EnquiryField, EnquiryPage  # noqa: E402
from site_parts.models import FooterLine, HomePage  # noqa: E402
from wagtail.models import Page, Site  # noqa: E402

root = Page.objects.get(depth=1)
home = root.add_child(instance=HomePage(title="Gannet", slug="gannet", lead="The harbour's own paper"))
Site.objects.update(root_page=home)
Page.objects.filter(depth=2).exclude(pk=home.pk).delete()
topic = Topic.objects.create(name="Tides", slug="tides")
index = home.add_child(instance=ArticleIndexPage(title="Articles", slug="articles", show_in_menus=True))
index = ArticleIndexPage.objects.get()
body = [
    {"type": "heading", "value": "High water"},
    {"type": "paragraph", "value": "<p>At noon.</p>"},
    {"type": "quote", "value": {"text": "Never so high", "by": "The pilot"}},
    {"type": "tide", "value": {"place": "Old crane", "high": "11:40:00", "height": "4.20"}},
    {"type": "steps", "value": ["Look", "Wait"]},
]

day = datetime.date(2026, 11, 2)
article = ArticlePage(title="Spring tide", slug="spring-tide", date=day, intro="Higher than ever", body=json.dumps(body))
index.add_child(instance=article)
article.topics.add(topic)
article.tags.add("tide")
article.related_links.add(RelatedLink(name="Home", target=home))
article.save()
page = home.add_child(instance=EnquiryPage(title="Enquiries", slug="enquiries", thanks="<p>Thank you.</p>", to_address="office@example.org", from_address="site@example.org", subject="Enquiry"))
EnquiryField.objects.create(page=page, label="Name", field_type="singleline", required=True, sort_order=1)
EnquiryField.objects.create(page=page, label="Email", field_type="email", required=True, sort_order=2)
Person.objects.create(name="A. Drake", rank="pilot", joined=day)
FooterLine.objects.create(text="<p>Open daily</p>")
