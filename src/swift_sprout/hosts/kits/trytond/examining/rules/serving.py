"""What the running host answered."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ......core.nearest import misspelt
from ...asking import last_place, said
from ...reading.routes import PROGRAMS, Route, routes_of
from ...view import ON
from ..examination import near
from .carried import class_missing, line_in

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination


def stopped(exam: Examination) -> Iterator[Finding]:
    """A module that stops the host, and one that is on but was not loaded."""
    assert exam.live is not None
    error = exam.live.stopped.get(exam.module.name)
    if error is not None:
        file, line = last_place(exam.view, error)
        path: Path | str = file
        if not file:
            path, line = class_missing(exam, error) or (exam.module.folder, 0)
        code = "registered.import-failed"
        if exam.live.answers.get("modules", {}).get("stopped", {}).get(exam.module.name) is None:
            code = "installed.update-stops"
        yield exam.find(code, path, line, reason=said(error))
    elif exam.loaded is False and exam.state in ON:
        others = [name for name in exam.live.left_out if name != exam.module.name]
        reason = f"it was left out, for {', '.join(others)} stops the host" if others else "it says nothing"
        yield exam.find("enabled.not-loaded", exam.module.folder, reason=reason)


def tables(exam: Examination) -> Iterator[Finding]:
    """Tables and columns that the database lacks."""
    for absent in (exam.by_module("tables") or ())[:20]:
        what = (
            f"the column {absent['table']}.{absent['column']}" if absent["column"] else f"the table {absent['table']}"
        )
        code = next((found for found in exam.module.classes if found.model == absent["model"]), None)
        field = code.fields.get(absent["column"]) if code is not None else None
        path: Path = code.path if code is not None else exam.module.folder
        line = field.line if field is not None else code.line if code is not None else 0
        yield exam.find("installed.tables-behind", path, line, what=what, model=absent["model"])


def views(exam: Examination) -> Iterator[Finding]:
    """Views that do not open."""
    told: set[tuple[Path | str, int]] = set()
    for failed in exam.answers("views") if exam.loaded else ():
        if "icon" in failed:
            yield from _icon(exam, failed)
            continue
        if "button" in failed:
            yield _button(exam, failed)
            continue
        if "error" not in failed:
            yield _refused(exam, failed)
            continue
        record = next((r for r in exam.module.records if r.text("name") == failed["name"]), None)
        file: Path | str = record.path if record is not None else exam.module.folder
        path = exam.module.folder / "view" / f"{failed['name']}.xml"
        if _breaks_with_another(exam, failed):
            continue
        names = {record.text("model") for record in [record] if record is not None}
        broke = _in_own_code(exam, failed["error"]) or _spelled(exam, failed["error"], names)
        place = broke or (path if path.is_file() else file, 0)
        if place not in told:
            told.add(place)
            yield exam.find("installed.view-fails", *place, name=failed["name"], reason=said(failed["error"]))


def _breaks_with_another(exam: Examination, failed: dict[str, Any]) -> bool:
    """True for a view that fails as one of a module does that needs this one: what that one puts into it breaks it."""
    assert exam.live is not None
    reason = said(failed["error"])
    return any(
        other["module"] != exam.module.name
        and "error" in other
        and said(other["error"]) == reason
        and exam.module.name in exam.view.needed(other["module"])
        for other in exam.live.answers.get("views") or ()
    )


def _spelled(exam: Examination, error: dict[str, Any], models: set[str]) -> tuple[Path | str, int] | None:
    """Return where the code spells the key that nothing has; a plain word only in the classes of some models."""
    last = error["chain"][-1]
    word = str(last["text"]).strip("'")
    if last["kind"] != "KeyError" or not word:
        return None
    classes = [one for module in exam.view.modules if module.own for one in module.classes]
    for found in classes:
        if "." in word or found.model in models:
            line = line_in(found, [word])
            if line:
                return found.path, line
    return None


def _in_own_code(exam: Examination, error: dict[str, Any]) -> tuple[str, int] | None:
    """Return the deepest line of the module's code that an error passed; None where it passed none."""
    file, line = last_place(exam.view, error)
    return (file, line) if exam.module.own and file.startswith(exam.view.relative(exam.module.folder)) else None


def _refused(exam: Examination, failed: dict[str, Any]) -> Finding:
    """Tell of what the host's grammar refuses in a view, or of a field that its model does not have, at its line."""
    path = exam.module.folder / "view" / f"{failed['name']}.xml"
    place: Path | str = path if path.is_file() else exam.module.folder
    record = next((one for one in exam.module.records if one.text("name") == failed["name"]), None)
    said = record.field("field_childs") if record is not None and failed.get("id") else None
    if record is not None and said is not None:
        place, failed = record.path, {**failed, "line": said.line}
    if "field" in failed:
        values = {"field": failed["field"], "model": failed["model"], "near": near(failed["field"], failed["known"])}
        return exam.find("installed.view-field", place, failed["line"], **values)
    return exam.find("installed.view-invalid", place, failed["line"], name=failed["name"], reason=failed["invalid"])


def _icon(exam: Examination, shown: dict[str, Any]) -> Iterator[Finding]:
    """Tell of an icon of a button in a view that must mean one which the host or a module brings."""
    path = exam.module.folder / "view" / f"{shown['name']}.xml"
    if shown["icon"] not in exam.icons and misspelt(shown["icon"], exam.icons):
        what, icon = f"the button {shown['button']}", shown["icon"]
        yield exam.find("placed.icon-unknown", path, shown["line"], what=what, icon=icon, near=near(icon, exam.icons))


def _button(exam: Examination, failed: dict[str, Any]) -> Finding:
    """Tell of a button that a view shows and its model does not have, at its line."""
    file = exam.module.view_file(failed["name"] or "")
    path = exam.module.folder / "view" / f"{failed['name']}.xml"
    text = path.read_text("utf-8", "replace") if file is not None else ""
    at = text.find(f'"{failed["button"]}"')
    return exam.find(
        "installed.view-button", path if file is not None else exam.module.folder,
        text.count("\n", 0, at) + 1 if at >= 0 else 0, button=failed["button"], model=failed["model"],
        near=near(failed["button"], failed["known"]),
    )  # fmt: skip


def menus(exam: Examination) -> Iterator[Finding]:
    """Menu entries that do not open, or are hidden."""
    for entry in exam.answers("menus") if exam.loaded else ():
        record = exam.module.ids.get(entry["id"])
        file: Path | str = record.path if record is not None else exam.module.folder
        line = record.line if record is not None else 0
        if entry["problem"]:
            yield exam.find("placed.opens-nothing", file, line, title=entry["title"], reason=said(entry["problem"]))
        elif entry["opened_for"] and not set(entry["own_groups"]) <= set(entry["opened_for"]):
            closed = ", ".join(sorted(set(entry["own_groups"]) - set(entry["opened_for"])))
            yield exam.find("permitted.menu-closed", file, line, title=entry["title"], groups=closed)
        elif entry["hidden"]:
            yield exam.find("placed.hidden", file, line, title=entry["title"], hidden=entry["hidden"])


def routes(exam: Examination) -> Iterator[Finding]:
    """Routes of the files that are not among the running host's."""
    if not exam.loaded or exam.live is None or "routes" not in exam.live.answers:
        return
    there = {(route["router"], route["route"]) for route in exam.live.answers["routes"]}
    told: set[str] = set()
    for route in routes_of(exam.module):
        if route.router and (route.router, route.method) not in there and route.method not in told:
            told.add(route.method)
            yield exam.find(
                "routed.not-there", route.owner.path, route.line, method=route.method, name=route.owner.name
            )


def pages(exam: Examination) -> Iterator[Finding]:
    """Pages that end with an error, are empty, cut off, not the module's, or open to the wrong people."""
    by_route: dict[str, list[dict[str, Any]]] = {}
    for asked in exam.answers("pages"):
        if asked["status"] is not None:
            by_route.setdefault(asked["route"], []).append(asked)
    known = {route.method: route for route in routes_of(exam.module)}
    for name, answers in by_route.items():
        route = known.get(name)
        yield from _page(exam, answers, route)


def _page(exam: Examination, answers: list[dict[str, Any]], route: Route | None) -> Iterator[Finding]:
    file: Path | str = route.owner.path if route is not None else exam.module.folder
    line = route.owner.methods[route.method].lineno if route and route.method in route.owner.methods else 0
    name = f"{route.owner.name}.{route.method}" if route is not None else answers[0]["route"]
    values = {"path": answers[0]["asked"], "name": name}
    failed = next((answer for answer in answers if answer["status"] >= 500 or answer["status"] == 0), None)
    if failed is not None:
        logged = next((entry["error"] for entry in failed["log"] if "error" in entry), None)
        reason = said(logged) if logged else failed["start"].strip() or f"status {failed['status']}"
        place = last_place(exam.view, logged) if logged else ("", 0)
        yield exam.find("served.error", place[0] or file, place[1] if place[0] else line, reason=reason, **values)
        return
    good = next((answer for answer in answers if 200 <= answer["status"] < 300), None)
    if good is None:
        by_key = route is not None and route.open_to == PROGRAMS
        if all(answer["status"] in (401, 403) for answer in answers) and len(answers) > 1 and not by_key:
            yield exam.find("permitted.nobody-enters", file, line, **values)
        return
    if route is not None and route.open_to not in ("anyone",) and good["who"] == "visitor":
        yield exam.find("permitted.fails-open", file, line, who=route.open_to, **values)
    if good["empty"] and good["status"] != 204:
        yield exam.find("served.empty", file, line, status=good["status"], **values)
    elif not good["whole"] and "<html" in good["start"].lower():
        yield exam.find("served.cut-off", file, line, status=good["status"], **values)
    elif "html" in good["type"] and _marks(exam) and exam.module.name not in good["marked"]:
        yield exam.find("served.unmarked", file, line, status=good["status"], **values)
    errors = [entry for entry in good["log"] if entry["level"] in ("ERROR", "CRITICAL")]
    if errors:
        error = errors[0].get("error")
        place = last_place(exam.view, error) if error else ("", 0)
        reason = said(error) if error else errors[0]["text"]
        yield exam.find("served.logged", place[0] or file, place[1] if place[0] else line, reason=reason, **values)


def _marks(exam: Examination) -> bool:
    """True for a module whose layout marks its pages, as all that are made here do."""
    path = exam.module.folder / "templates" / "layout.html"
    return path.is_file() and "data-module" in path.read_text("utf-8", "replace")


def servers(exam: Examination) -> Iterator[Finding]:
    """Servers that are older than the module's files."""
    if not exam.module.own:
        return
    newest = max((path.stat().st_mtime for path in exam.module.folder.rglob("*.*")), default=0.0)
    for server in exam.view.servers:
        if server.began < newest:
            yield exam.find("served.stale", exam.module.folder, 0, process=server.process)
