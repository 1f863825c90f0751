"""The module's own tests."""

from __future__ import annotations

from .....core.brief import Brief
from .shared import Values


def test_imports(
    brief: Brief, records: list[Values], pages: list[Values], endpoints: list[Values], tests_preferences: bool
) -> list[str]:
    """Return the first lines of the module's test file."""
    needs_user = any(page["needs_user"] for page in pages) or any(not one["open_to_visitors"] for one in endpoints)
    models_of_auth = (["Group"] if brief.groups else []) + (
        ["Permission"] if any(p["permission"] for p in pages) else []
    )
    found = ["import io"] if brief.commands else []
    found += ["import json", "from pathlib import Path"] if any(one["answers_get"] for one in endpoints) else []
    found += [""] if found else []
    found.append("from django.apps import apps")
    if needs_user or brief.menu:
        found.append("from django.contrib.auth import get_user_model")
    if models_of_auth:
        found.append(f"from django.contrib.auth.models import {', '.join(models_of_auth)}")
    if brief.assets:
        found.append("from django.contrib.staticfiles import finders")
    if brief.commands or any(brief.record(one.record) for one in brief.samples):
        found.append("from django.core.management import call_command")
    if any(page["has_form"] and not page["changes"] and page["posts"] for page in pages):
        found.append("from django.forms import model_to_dict")
    if brief.blocks or brief.menu:
        found.append("from django.template import Context, Template")
    found.append(
        "from django.test import RequestFactory, TestCase"
        if brief.blocks or brief.menu
        else "from django.test import TestCase"
    )
    if pages or endpoints:
        found.append("from django.urls import reverse")
    if brief.translations:
        found.append("from django.utils import translation")
    if any(page["is_plain"] for page in pages) or brief.menu or any(one.shows for one in brief.blocks):
        found.append("from django.utils.html import escape")
    if any(one["rest"] for one in endpoints):
        found.append("from rest_framework.test import APIClient")  # signs in whatever the project authenticates by
    own = ["models"] if records or tests_preferences else []
    own += ["listeners"] if brief.listeners else []
    own += ["menu"] if brief.menu else []
    own += ["services"] if brief.services else []
    own = sorted(own)
    if own:
        found += ["", f"from .. import {', '.join(own)}"]
    if records:
        found += [*([] if own else [""]), "from . import samples"]
    if tests_preferences:
        found.insert(len(found) - (1 if records else 0), "from ..preferences import preferences")
    return found
