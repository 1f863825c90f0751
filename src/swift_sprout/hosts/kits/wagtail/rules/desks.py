"""Served: what editors open of a module in the administration, and what the API lists, breaks."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ....python.code_errors import is_of_code
from ...django.asking import said

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.answers import Live
    from ...django.examining.examination import Examination
    from ...django.view import HostView


def of_module(exam: Examination) -> Iterator[Finding]:
    """What breaks of the module's own, or in its code."""
    if exam.live is not None:
        yield from _broken(exam.view, exam.live, exam.module.name)


def of_host(view: HostView, live: Live) -> Iterator[Finding]:
    """What breaks of no module."""
    yield from _broken(view, live, "")


def _broken(view: HostView, live: Live, owner: str) -> Iterator[Finding]:
    met: set[tuple[str, int, str]] = set()
    for failed in (live.answers.get("desks") or {}).get("failed", ()):
        place = failed["error"]["place"]
        if ((view.owner_of(place[0]) if place else "") or failed["module"]) != owner:
            continue
        if not is_of_code(failed["error"]):
            continue
        file, line = (view.relative(Path(place[0])), int(place[1])) if place else ("", 0)
        values = {
            "step": failed["step"],
            "error": said(failed["error"]),
            "place": f"{file}:{line}" if file else "what it says",
        }
        if (file, line, values["error"]) not in met:
            met.add((file, line, values["error"]))
            yield view.data.rules.finding("served.desk-breaks", owner, file, line, **values)


LIVE = (of_module,)
LIVE_OF_HOST = (of_host,)
