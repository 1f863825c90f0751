"""Served: forms, from the files and as the running host took them when they were sent."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ......core.findings import Finding
from .....python.returning import Function, gives_nothing
from ...answers import is_of_code
from ...asking import last_place, said
from ...forms import unguarded_targets
from ...reading.code import nodes_of, spelled
from ..examination import Examination
from .closer import owner_of

if TYPE_CHECKING:
    from ...answers import Live
    from ...view import HostView

_SENT_BY_POST = re.compile(r"<form\b[^>]*\bmethod\s*=\s*[\"']?post\b[^>]*>", re.IGNORECASE)
_DOING = {"checking": "checked", "sending": "sent"}


def drops_value(exam: Examination) -> Iterator[Finding]:
    """Methods that clean a field of a form, and give no value back."""
    for source in exam.sources:
        if source.tree is None or not source.mentions("def clean_"):
            continue
        for holder in (node for node in nodes_of(source.tree) if isinstance(node, ast.ClassDef)):
            if not any(spelled(base).endswith("Form") for base in holder.bases):
                continue
            for method in holder.body:
                if isinstance(method, Function) and method.name.startswith("clean_") and gives_nothing(method, True):
                    values = {"method": f"{holder.name}.{method.name}", "field": method.name.removeprefix("clean_")}
                    yield exam.find("served.form-drops-value", source.path, method.lineno, **values)


def sent(exam: Examination) -> Iterator[Finding]:
    """Forms that break when somebody fills them in and sends them: tried with made up values, in the copy."""
    for one in exam.live.forms if exam.live is not None else ():
        mine = [name for name in (one["form"], one["view"], f"{one['module']}.") if name and exam.owns(name)]
        outer = one["error"]["chain"][0]
        if not mine or not is_of_code(one["error"]) or "AnonymousUser" in said(one["error"]):
            continue
        place, error = last_place(one["error"], exam.view.root), said(one["error"])
        if outer["kind"] == "ImproperlyConfigured" and one["view"]:  # the view knows no address to go to
            place, error = _class_place(exam, one["view"]), f"{outer['kind']}: {outer['text']}"
        if place is not None:
            form = one["form"].rpartition(".")[2] if exam.owns(one["form"]) else f"of {one['view'].rpartition('.')[2]}"
            values = {"form": form, "doing": _DOING[one["doing"]], "error": error}
            yield exam.find("served.form-breaks", place[0], place[1], **values)


def _class_place(exam: Examination, dotted: str) -> tuple[Path, int] | None:
    found = exam.view.project.defining(dotted)
    return (found[0], found[1].lineno) if found is not None else None


def without_token(exam: Examination) -> Iterator[Finding]:
    """Forms in the module's templates that the host refuses when they are sent."""
    yield from unguarded(exam.view, exam.live, exam.module.name)


def unguarded(view: HostView, live: Live | None, owner: str) -> Iterator[Finding]:
    """Yield the forms without the token in templates of a module, or of none; each once, with a page that shows it."""
    told: set[tuple[Path, int]] = set()
    for asked in [one for requests in live.asked.values() for one in requests] if live is not None else ():
        targets = [one for one in unguarded_targets(asked.path, asked.answer) if live.unguarded.get(one) is False]  # type: ignore[union-attr]
        for template in asked.log.get("templates", ()) if targets else ():
            path = Path(template["file"])
            if owner_of(view, str(path)) != owner or not path.resolve().is_relative_to(view.root.resolve()):
                continue
            for line in _lines_without_token(path):
                if (path, line) not in told:
                    told.add((path, line))
                    file = view.relative(path)
                    values = {"template": file, "target": targets[0], "path": asked.path, "place": f"{file}:{line}"}
                    yield view.data.rules.finding("served.form-without-token", owner, file, line, **values)


def _lines_without_token(path: Path) -> Iterator[int]:
    text = path.read_text("utf-8", "replace")
    for begins in _SENT_BY_POST.finditer(text):
        ends = text.lower().find("</form", begins.end())
        if "csrf_token" not in text[begins.end() : ends if ends > 0 else len(text)]:
            yield text.count("\n", 0, begins.start()) + 1


STATIC = (drops_value,)
LIVE = (sent, without_token)
