"""Puts pages and signals into the database of a new copy: python fill.py"""

import datetime as dt
import os

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "headland.settings.dev")
django.setup()

from notices.models import NoticeIndexPage, NoticePage  # noqa: E402
from pages.models import HomePage  # noqa: E402
from signals.models import Signal  # noqa: E402

index = HomePage.objects.get().add_child(instance=NoticeIndexPage(title="Notices", intro="To mariners"))
index.add_child(instance=NoticePage(title="Fog", posted=dt.date(2026, 11, 2)))
Signal.objects.create(name="Gale cone")
