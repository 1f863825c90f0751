"""Translations."""

from __future__ import annotations

import re
from collections.abc import Iterable

from .....core.brief import Brief
from .....core.names import at_beginning
from .....core.parts.contents import Translation

_CODE_TEXT = re.compile(r"(?<![\w.])_\(\s*(\"(?:[^\"\\]|\\.)*\"|'(?:[^'\\]|\\.)*')\s*\)")
_TEMPLATE_TEXT = re.compile(r"\{%\s*translate\s+\"([^\"]*)\"\s*%\}")


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
        source.append(polib.POEntry(msgid=text, msgstr=known.get(text) or known.get(at_beginning(text), "")))
    return (str(source).rstrip("\n") + "\n").encode("utf-8"), source.to_binary()


def _locale(language: str) -> str:
    first, _, rest = language.partition("-")
    return f"{first}_{rest.upper() if len(rest) == 2 else rest.title()}" if rest else first


def locale_folder(translation: Translation) -> str:
    """Return the folder of a language below the module's own."""
    return f"locale/{_locale(translation.language)}/LC_MESSAGES"
