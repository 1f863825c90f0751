"""Page types, for kits whose hosts keep pages in a tree: what differs between them stands under ``[page_type]``."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.names import within_sentence
from .....core.parts.pagetypes import PageType
from ....contract.kitdata import KitData
from ....shared.rendering import python_docstring, python_text
from ..facts import django
from .records import field_values
from .shared import Values, uses

_SEARCHED = ("text", "long text")


def page_type_values(data: KitData, brief: Brief) -> list[Values]:
    """Return the values that templates take of the page types; raises WrongUse for what the host cannot carry."""
    return [_one(data, brief, one) for one in brief.page_types]


def _one(data: KitData, brief: Brief, page_type: PageType) -> Values:
    of_host = django(data).page_type
    assert of_host is not None  # kits without it refuse page types before
    for field in page_type.fields:
        if field.name in of_host.reserved_fields:
            raise WrongUse(
                "name-reserved",
                f"{page_type.name.title}.{field.name}: every page of the host has that already.",
                f"Say {field.name}_value.",
            )
    fields = [field_values(data, brief, page_type.name.title, field) for field in page_type.fields]
    title = python_text(within_sentence(page_type.name.title))
    return {
        "page_type": page_type.name.camel,
        "page_type_snake": page_type.name.snake,
        "page_type_title": within_sentence(page_type.name.title),
        "page_type_docstring": python_docstring(page_type.summary or f"{page_type.name.title}."),
        "page_type_fields": fields,
        "searched": [{"name": field.name} for field in page_type.fields if field.type in _SEARCHED],
        "under": _types(brief, page_type.under),
        "holds": "[]" if page_type.holds == ("nothing",) else _types(brief, page_type.holds),
        "record": page_type.name.camel,
        "fields": fields,
        "options": {"verbose_name": title},
        "pointer": of_host.pointer,
        "bases": of_host.bases,
        "rests_on": of_host.needs_last_of,
    }


def _types(brief: Brief, names: tuple[str, ...]) -> str:
    """Spell types of pages as the host names them; empty for none that are said."""
    found = []
    for name in names:
        own = next((one for one in brief.page_types if one.name.camel.lower() == _plain(name)), None)
        found.append(f"{brief.name.snake}.{own.name.camel}" if own is not None else name)
    return python_text(found) if found else ""


def _plain(name: str) -> str:
    return name.replace(" ", "").replace("_", "").lower()


def page_type_imports(types: list[Values]) -> list[str]:
    """Return the first lines of the file that holds the page types, before the host's own."""
    found = ["import datetime"] if uses(types, "model", "datetime.") else []
    found += ["from decimal import Decimal"] if uses(types, "model", "Decimal(") else []
    found += [""] if found else []
    found += ["import django.utils.timezone"] if uses(types, "model", "django.utils.timezone") else []
    found += ["from django.conf import settings"] if uses(types, "model", "settings.AUTH_USER") else []
    found += ["from django.db import models"] if any(one["fields"] for one in types) else []
    return [*found, "from django.utils.translation import gettext_lazy as _"]


def placed_pages(brief: Brief) -> list[dict[str, object]]:
    """Return the pages that are made in the tree when the module is settled, as plain data."""
    return [
        {"type": one.name.camel, "title": one.placed, "below": one.below, "live": one.live}
        for one in brief.page_types
        if one.placed
    ]
