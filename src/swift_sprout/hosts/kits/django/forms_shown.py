"""Which pages show a form that no page before has shown: only those are opened again, to send it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, NamedTuple, TypeVar

if TYPE_CHECKING:
    from ....running.loopback import Response

Page = TypeVar("Page")

OK = 200
_FORM = re.compile(r"(<form\b[^>]*>)(.*?)(?=</form|<form\b|\Z)", re.IGNORECASE | re.DOTALL)
_ACTION = re.compile(r"\baction\s*=\s*[\"']?(?:/|https?:)", re.IGNORECASE)
_FIELD = re.compile(r"\bname\s*=\s*[\"']?([^\s\"'>]+)", re.IGNORECASE)


class ShownForm(NamedTuple):
    """What tells a form from another one.

    tag    -- its start tag, as it is written
    page   -- the path of the page, where the form is sent to an address that depends on it; else empty
    fields -- the names of its fields
    """

    tag: str
    page: str
    fields: frozenset[str]


def forms_shown(path: str, answer: Response) -> set[ShownForm]:
    """Return the forms of a page that was answered."""
    if answer.status != OK or "html" not in answer.headers.get("content-type", "") or b"<form" not in answer.body:
        return set()
    return {
        ShownForm(tag, "" if _ACTION.search(tag) else path, frozenset(_FIELD.findall(fields)))
        for tag, fields in _FORM.findall(answer.body.decode("utf-8", "replace"))
    }


def with_new_forms(pages: Iterable[tuple[Page, str, Response]]) -> Iterator[Page]:
    """Yield the pages, each given with its path and its answer, that show a form which no page before them does.

    Forms of a layout stand on every page: one page is enough to send them.
    """
    met: set[ShownForm] = set()
    for page, path, answer in pages:
        shown = forms_shown(path, answer)
        if not shown <= met:
            met |= shown
            yield page
