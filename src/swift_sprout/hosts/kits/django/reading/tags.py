"""The tags of one template, as its file shows them."""

from __future__ import annotations

import re
from functools import lru_cache
from pathlib import Path
from typing import NamedTuple

from .....disk.guard import read_content

_TAG = re.compile(r"\{%-?\s*(\w+)\s*(.*?)\s*-?%\}|\{#.*?#\}", re.DOTALL)
_QUOTED = r"\"([^\"]*)\"|'([^']*)'"


class Tag(NamedTuple):
    """One tag of a template: its name, the rest of it, and its line."""

    name: str
    rest: str
    line: int

    @property
    def first_text(self) -> str | None:
        """Its first argument where that is a literal text."""
        found = re.match(_QUOTED, self.rest)
        return (found.group(1) or found.group(2)) if found else None

    @property
    def whole_text(self) -> str | None:
        """Its first argument where that is a literal text to which no filter adds anything."""
        found = re.match(_QUOTED, self.rest)
        return self.first_text if found and not self.rest[found.end() :].startswith("|") else None


#  many templates are alike, and what stands in several at the same line is kept once
_tag = lru_cache(maxsize=20_000)(Tag)


def read_tags(path: Path | str) -> tuple[Tag, ...]:
    """Return the tags of a template in order; what stands in comments or ``verbatim`` is left out."""
    try:
        return tags_in(read_content(str(path)).decode("utf-8", "replace"))
    except OSError:
        return ()


def tags_in(text: str) -> tuple[Tag, ...]:
    """Return the tags of the text of a template."""
    tags: list[Tag] = []
    skipping = ""
    for found in _TAG.finditer(text):
        name = found.group(1)
        if skipping:
            skipping = "" if name == skipping else skipping
        elif name in ("comment", "verbatim"):
            skipping = f"end{name}"
        elif name:
            tags.append(_tag(name, found.group(2), text.count("\n", 0, found.start()) + 1))
    return tuple(tags)
