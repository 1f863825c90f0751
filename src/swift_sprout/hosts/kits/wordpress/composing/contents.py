"""Texts and translations in the host's own form."""

from __future__ import annotations

from typing import Any

import polib

from .....core.brief import Brief
from .....core.parts.contents import Translation
from ....contract.kitdata import KitData
from ..facts import wordpress

_OWN = (
    "Nothing here yet.",
    "There is no such record.",
    "This is needed.",
    "This does not fit.",
    "This is there already.",
    "It is needed by: %s",
    "You may not do this.",
    "This page does not answer that.",
    "Only on these addresses, one a line",
    "Add",
    "Save",
    "Delete",
    "yes",
    "no",
)


def texts_of(brief: Brief) -> list[str]:
    """Return all texts of a module that people see."""
    found = [brief.name.title]
    for record in brief.records:
        found += [record.name.title, record.plural.title]
        for field in record.fields:
            found += [field.label, field.help, *(choice.label for choice in field.choices)]
    for setting in brief.settings:
        found += [setting.field.label, setting.field.help, *(choice.label for choice in setting.field.choices)]
    for page in brief.pages:
        found += [page.title, page.text]
    found += [entry.title for entry in brief.menu]
    for block in brief.blocks:
        found += [block.name.title, block.text]
    return list(dict.fromkeys(text for text in [*found, *_OWN] if text))


def catalogues(data: KitData, brief: Brief, translation: Translation) -> dict[str, bytes]:
    """Return a language's catalogue, as people write it and compiled: path below the module's folder, and content."""
    known = dict(translation.texts)
    source: Any = polib.POFile(wrapwidth=0)
    locale = locale_of(data, translation.language)
    source.metadata = {
        "Project-Id-Version": brief.name.title,
        "Language": locale,
        "Content-Type": "text/plain; charset=UTF-8",
        "Content-Transfer-Encoding": "8bit",
    }
    for text in sorted(texts_of(brief)):
        source.append(polib.POEntry(msgid=text, msgstr=known.get(text, "")))
    stem = f"languages/{brief.name.kebab}-{locale}"
    return {f"{stem}.po": (str(source).rstrip("\n") + "\n").encode("utf-8"), f"{stem}.mo": source.to_binary()}


def locale_of(data: KitData, language: str) -> str:
    """Return the host's name of a language: most of its names say a country as well."""
    first, _, rest = language.partition("-")
    if rest:
        return f"{first}_{rest.upper()}" if len(rest) == 2 else f"{first}_{rest}"
    return wordpress(data).locales.get(first, first)
