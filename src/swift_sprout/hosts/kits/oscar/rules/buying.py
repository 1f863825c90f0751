"""Served: what fails while a customer of the running shop buys something, and while the order is handled."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....python.code_errors import is_of_code
from ...django.asking import said
from ...django.reading.code import class_named
from .reading import host_app_of

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.answers import Live
    from ...django.examining.examination import Examination
    from ...django.view import HostView


def of_module(exam: Examination) -> Iterator[Finding]:
    """What fails in the module's own code."""
    if exam.live is not None:
        yield from _failing(exam.view, exam.live, exam.module.name)


def of_host(view: HostView, live: Live) -> Iterator[Finding]:
    """What fails in code of no module."""
    yield from _failing(view, live, "")


def _failing(view: HostView, live: Live, owner: str) -> Iterator[Finding]:
    met: set[tuple[str, int]] = set()
    for failed in (live.answers.get("buying") or {}).get("failed", ()):
        if _owner(view, failed) != owner:
            continue
        file, line = _place(view, failed)
        if (file, line) in met:
            continue
        met.add((file, line))
        certain = failed.get("certain") or is_of_code(failed["error"])
        code = "served.buying-fails" if certain else "served.buying-unsure"
        values = {
            "step": failed["step"],
            "error": said(failed["error"]),
            "place": f"{file}:{line}" if file else "what it says",
        }
        yield view.data.rules.finding(code, owner, file, line, **values)


def _place(view: HostView, failed: dict[str, Any]) -> tuple[str, int]:
    """Return where a step failed: the deepest line of the host, else its controller, else nowhere."""
    place = failed["error"]["place"]
    if place:
        return view.relative(Path(place[0])), int(place[1])
    module, _, name = str(failed["view"]).rpartition(".")
    path = view.project.file_of(module) if module else None
    source = view.project.parse(path) if path is not None else None
    node = class_named(source.tree, name) if source is not None and source.tree is not None else None
    return (view.relative(path), node.lineno if node is not None else 0) if path is not None else ("", 0)


def _owner(view: HostView, failed: dict[str, Any]) -> str:
    """Return the module in whose code a step failed; empty for code of none."""
    place = failed["error"]["place"]
    if place:
        return view.owner_of(place[0])
    return next((one.name for one in view.modules if failed["view"].startswith(f"{one.name}.")), "")


def standing(exam: Examination) -> Iterator[str]:
    """Tell of the checkout that a customer got through it."""
    bought = (exam.live.answers.get("buying") or {}).get("bought") if exam.live is not None else False
    if bought and host_app_of(exam) == "checkout":
        yield "a customer bought a product"


LIVE = (of_module,)
LIVE_OF_HOST = (of_host,)
