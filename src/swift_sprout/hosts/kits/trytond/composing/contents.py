"""Texts and translations in the host's own form."""

from __future__ import annotations

from typing import Any

import polib

from .....core.brief import Brief
from .....core.parts.contents import Translation
from .placing import entry_key
from .shared import Values, model_name


def message_values(brief: Brief, has_routes: bool, has_forms: bool) -> list[Values]:
    """Return the texts that the code says, by the ids under which it says them."""
    found: dict[str, str] = {}
    for record in brief.records:
        for field in record.fields:
            if field.unique:
                found[f"{record.name.snake}_{field.name}_unique"] = f"{field.label} must be unique."
    if has_routes:
        found |= {"title": brief.name.title, "nothing": "Nothing here yet.", "yes": "yes", "no": "no"}
    for page in brief.pages:
        stem = "_".join(page.words)
        found[f"page_{stem}"] = page.title
        if page.text:
            found[f"text_{stem}"] = page.text
    for block in brief.blocks:
        found[f"block_{block.key}"] = block.name.title
        if block.text:
            found[f"block_text_{block.key}"] = block.text
    if has_forms:
        found |= {"save": "Save", "missing": "This is needed.", "unfit": "This does not fit."}
    return [{"message_id": key, "message_text": text} for key, text in found.items()]


def texts_of(brief: Brief, values: Values) -> list[tuple[str, str]]:
    """Return all texts that people see: the context in which the host looks for each, and the text."""
    found: list[tuple[str, str]] = []
    label = brief.name.snake
    for record in brief.records:
        model = model_name(brief, record)
        found.append((f"model:{model},string:", record.name.title))
        for field in record.fields:
            found.append((f"field:{model},{field.name}:", field.label))
            if field.help:
                found.append((f"help:{model},{field.name}:", field.help))
            found += [(f"selection:{model},{field.name}:", choice.label) for choice in field.choices]
        found.append((f"model:ir.action,name:act_{record.name.snake}", record.plural.title))
        found.append((f"model:ir.ui.menu,name:menu_{record.name.snake}", record.plural.title))
    for setting in brief.settings:
        found.append((f"field:{label}.configuration,{setting.field.name}:", setting.field.label))
    for one in values["messages"]:
        found.append((f"model:ir.message,text:msg_{one['message_id']}", one["message_text"]))
    for group in brief.groups:
        found.append((f"model:res.group,name:group_{group.key}", group.name.title))
    for permission in values["records"]:
        for button in permission["buttons"]:
            found.append(
                (f"model:ir.model.button,string:{permission['snake']}_{button['button']}", button["button_title"])
            )
    if values["has_menu"]:
        found.append((f"model:ir.ui.menu,name:menu_{label}", brief.name.title))
    for entry in brief.menu:
        found.append((f"model:ir.ui.menu,name:entry_{entry_key(entry)}", entry.title))
        if entry.page:
            found.append((f"model:ir.action,name:wizard_{entry_key(entry)}", entry.title))
            found.append((f"model:ir.action,name:url_{entry_key(entry)}", entry.title))
    return found


def catalogue(brief: Brief, translation: Translation, texts: list[tuple[str, str]]) -> bytes:
    """Return a language's catalogue as the host reads it."""
    known: dict[str, str] = dict(translation.texts)
    source: Any = polib.POFile(wrapwidth=0)
    source.metadata = {"Content-Type": "text/plain; charset=utf-8"}
    for context, text in sorted(dict.fromkeys(texts)):
        source.append(polib.POEntry(msgctxt=context, msgid=text, msgstr=known.get(text, "")))
    return (str(source).rstrip("\n") + "\n").encode("utf-8")


def catalogue_path(translation: Translation) -> str:
    """Return where a language's catalogue lies below the module's folder."""
    first, _, rest = translation.language.partition("-")
    return f"locale/{first}_{rest.upper()}.po" if rest else f"locale/{first}.po"
