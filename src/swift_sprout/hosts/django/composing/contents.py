"""Sample data and translations."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable

from ....core.brief import Brief
from ....core.parts.contents import Translation, sample_key

_CODE_TEXT = re.compile(r"(?<![\w.])_\(\s*(\"(?:[^\"\\]|\\.)*\"|'(?:[^'\\]|\\.)*')\s*\)")
_TEMPLATE_TEXT = re.compile(r"\{%\s*translate\s+\"([^\"]*)\"\s*%\}")


def sample_data(brief: Brief) -> str:
    """Return the sample data as JSON: for each record, by which field a row is known, and the rows.

    Records stand after those that they point at, so that a target is there before it is named.
    """
    entries: list[dict[str, object]] = []
    for sample in brief.samples:
        record = brief.record(sample.record)
        assert record is not None
        relations = {}
        for field in record.fields:
            target = brief.record(field.target) if field.type == "one" else None
            if target is not None:
                other = next((one for one in brief.samples if brief.record(one.record) is target), None)
                by = sample_key(other, target) if other else target.title_field.name
                relations[field.name] = {"record": target.name.camel, "by": by}
        kinds = {field.name: field.type for field in record.fields}
        rows = [
            {name: (value in ("yes", "true") if kinds[name] == "yes/no" else value) for name, value in row}
            for row in sample.rows
        ]
        entries.append(
            {"record": record.name.camel, "by": sample_key(sample, record), "relations": relations, "rows": rows}
        )
    return json.dumps(_targets_first(entries), indent=2, ensure_ascii=False) + "\n"


def _targets_first(entries: list[dict[str, object]]) -> list[dict[str, object]]:
    names = {entry["record"] for entry in entries}
    done: list[dict[str, object]] = []
    waiting = list(entries)
    while waiting:
        placed = {entry["record"] for entry in done}
        ready = next((one for one in waiting if _pointed(one) & names - {one["record"]} <= placed), waiting[0])
        waiting.remove(ready)
        done.append(ready)
    return done


def _pointed(entry: dict[str, object]) -> set[object]:
    relations = entry["relations"]
    assert isinstance(relations, dict)
    return {one["record"] for one in relations.values()}


def visible_texts(files: Iterable[tuple[str, bytes]]) -> list[str]:
    """Return the texts that people see, from generated files in order: those that go through the host's translation."""
    import ast

    found: dict[str, None] = {}
    for path, content in files:
        if path.startswith(("tests/", "migrations/")):
            continue
        text = content.decode("utf-8", "replace")
        if path.endswith(".py"):
            found.update((ast.literal_eval(one), None) for one in _CODE_TEXT.findall(text))
        elif path.endswith(".html"):
            import html

            found.update((html.unescape(one), None) for one in _TEMPLATE_TEXT.findall(text))
    return [text for text in found if text]


def catalogue(brief: Brief, translation: Translation, texts: Iterable[str]) -> tuple[bytes, bytes]:
    """Return a language's catalogue as the host reads it: the source form and the compiled form."""
    import polib

    known = dict(translation.texts)
    source = polib.POFile(wrapwidth=0)
    source.metadata = {
        "Project-Id-Version": f"{brief.name.title} {brief.version}",
        "Language": _locale(translation.language),
        "MIME-Version": "1.0",
        "Content-Type": "text/plain; charset=UTF-8",
        "Content-Transfer-Encoding": "8bit",
    }
    for text in dict.fromkeys((*texts, *known)):
        source.append(polib.POEntry(msgid=text, msgstr=known.get(text, "")))
    return (str(source).rstrip("\n") + "\n").encode("utf-8"), source.to_binary()


def _locale(language: str) -> str:
    first, _, rest = language.partition("-")
    return f"{first}_{rest.upper() if len(rest) == 2 else rest.title()}" if rest else first


def locale_folder(translation: Translation) -> str:
    """Return the folder of a language below the module's own."""
    return f"locale/{_locale(translation.language)}/LC_MESSAGES"
