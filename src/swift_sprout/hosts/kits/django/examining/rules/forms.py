"""Served: forms, from the files and as the running host took them when they were sent."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ......core.findings import Finding
from .....python.code_errors import said_of_form
from .....python.posting import is_sure, lines_of_forms
from .....python.returning import Function, gives_nothing
from ...asking import last_place, said
from ...reading.code import nodes_of, spelled
from ..examination import Examination

if TYPE_CHECKING:
    from ...answers import Live
    from ...view import HostView

#  why a form is refused, and what to do about it
_WHY = {
    "absent": ("which no address matches", "post it to an existing address at {place}"),
    "slash": ("which matches only with a trailing slash", "add the trailing slash at {place}"),
    "refused": ("but {view} does not accept POST", "accept POST in {view}, or post the form elsewhere at {place}"),
}


def drops_value(exam: Examination) -> Iterator[Finding]:
    """Methods that clean a field of a form, and give no value back."""
    for source in exam.sources:
        if source.tree is None or not source.mentions("def clean_"):
            continue
        for holder in (node for node in nodes_of(source.tree) if isinstance(node, ast.ClassDef)):
            if not any(spelled(base).endswith("Form") for base in holder.bases):
                continue
            for method in holder.body:
                if isinstance(method, Function) and _cleans_field(holder, method) and gives_nothing(method, True):
                    values = {"method": f"{holder.name}.{method.name}", "field": method.name.removeprefix("clean_")}
                    yield exam.find("served.form-drops-value", source.path, method.lineno, **values)


def _cleans_field(holder: ast.ClassDef, method: Function) -> bool:
    """True for a method that the form calls for one of its fields: one that its class names."""
    name = method.name.removeprefix("clean_")
    if name == method.name or len(method.args.args) != 1 or method.decorator_list:
        return False
    others = [node for node in holder.body if node is not method]
    return any(
        (isinstance(node, ast.Name) and node.id == name) or (isinstance(node, ast.Constant) and node.value == name)
        for other in others
        for node in ast.walk(other)
    )


def sent(exam: Examination) -> Iterator[Finding]:
    """Forms that break, or are refused, when somebody sends them: tried with made up values, in the copy."""
    yield from sent_from(exam.view, exam.live, exam.module.name)


def sent_from(view: HostView, live: Live | None, owner: str) -> Iterator[Finding]:
    """Yield what is wrong with the forms that a module takes, or that stand in its templates; empty for the host."""
    told: set[tuple[str, int]] = set()
    for one in live.forms if live is not None else ():
        if one["wrong"] == "error":
            if one["module"] == owner and is_sure(one["error"]):
                yield _broken(view, one)
            continue
        for path, line in _forms_drawn(view, live, one, owner):
            file = view.relative(path)
            if (file, line) in told:
                break
            told.add((file, line))
            yield _refused(view, one, owner, file, line)
            break


def _broken(view: HostView, told: dict[str, Any]) -> Finding:
    outer, error = told["error"]["chain"][0], said(told["error"])
    passed = told["error"].get("place")
    place = (Path(passed[0]), int(passed[1])) if passed else last_place(told["error"], view.root)
    if outer["kind"] == "ImproperlyConfigured" or place is None:  # the view knows no address to go to
        found = view.project.defining(told["view"])
        place = (found[0], found[1].lineno) if found is not None else place
        error = f"{outer['kind']}: {outer['text']}"
    file, line = (view.relative(place[0]), place[1]) if place is not None else (told["module"], 0)
    name = told["view"].removeprefix(f"{told['module']}.")
    error = said_of_form(told["error"], error)
    values = {"view": name, "path": told["path"], "error": error, "place": f"{file}:{line}" if line else file}
    return view.data.rules.finding("served.form-breaks", told["module"], file, line, **values)


def _refused(view: HostView, told: dict[str, Any], owner: str, file: str, line: int) -> Finding:
    values = {"template": file, "target": told["target"], "path": told["path"], "place": f"{file}:{line}"}
    if told["wrong"] == "token":
        return view.data.rules.finding("served.form-without-token", owner, file, line, **values)
    why, remedy = _WHY[told["wrong"]]
    values |= {"why": why.format(**told), "remedy": remedy.format(**told, place=values["place"])}
    return view.data.rules.finding("routed.form-refused", owner, file, line, **values)


def _forms_drawn(view: HostView, live: Live | None, told: dict[str, Any], owner: str) -> Iterator[tuple[Path, int]]:
    """Yield the forms in the templates of a page that are of a module, or of none."""
    requests = [one for asked in (live.asked if live is not None else {}).values() for one in asked]
    drawn = [one for asked in requests if asked.path == told["path"] for one in asked.log.get("templates", ())]
    for path in dict.fromkeys(Path(one["file"]) for one in drawn):
        inside = path.resolve().is_relative_to(view.root.resolve()) and "site-packages" not in path.parts
        if inside and view.owner_of(str(path)) == owner:
            without = ("csrf_token",) if told["wrong"] == "token" else ()
            yield from ((path, line) for line in lines_of_forms(path.read_text("utf-8", "replace"), without))


STATIC = (drops_value,)
LIVE = (sent,)
