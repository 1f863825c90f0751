"""Permitted and served: what the running host really answered."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from .....python.code_errors import is_of_code
from ...answers import PageRequest
from ...asking import SERVER_FAILS, said
from ..evidence import mark_in
from ..examination import Examination

REDIRECTS = (301, 302, 303, 307, 308)


def answers(exam: Examination) -> Iterator[Finding]:
    """Judge the answers to each page: the last person asked is the one who should have seen it."""
    by_path: dict[str, list[PageRequest]] = {}
    for asked in exam.asked:
        by_path.setdefault(asked.path, []).append(asked)
    for asks in by_path.values():
        yield from _page(exam, asks)


def _page(exam: Examination, asks: list[PageRequest]) -> Iterator[Finding]:
    last = asks[-1]
    status, view = last.answer.status, last.route["view"]
    file, line = Path(last.route["file"] or exam.module.folder), last.route["line"]
    common = {"path": last.path, "view": view.removeprefix(exam.module.name + "."), "status": status}
    served_by = last.answer.headers.get("x-sprout-view", "")
    if last.route.get("answers") not in (None, view):
        return  # shadowed: said by the rule for addresses
    if last.route.get("guessed") and _comes_of_guess(last):
        return  # what stands in its address is made up: there may well be nothing of the kind
    if status == 0:
        yield exam.find("served.no-answer", file, line, error=last.answer.failure, **common)
    elif status >= 500 and "error" in last.log:
        yield _failure(exam, last, file, line, common)
    elif status in (401, 403) and "json" in last.answer.headers.get("content-type", ""):
        return  # it knows its callers by something else than the host's users
    elif status in (401, 403) and len(asks) > 1:
        yield exam.find("permitted.nobody", file, line, **common)
    elif status in REDIRECTS:
        yield from _redirected(exam, asks, file, line)
    elif status == 405:  # made for other methods than the one that asks for a page, if no page links to it
        linked = _linking(exam, last.path)
        if linked is not None:
            yield exam.find("served.linked-refuses", file, line, page=linked, **common)
    elif status == 404 and last.route.get("made_up"):
        return  # the record is made up: the page may well be for others
    elif not 200 <= status < 300:
        yield exam.find("served.status", file, line, **common)
    elif served_by != view:
        other = served_by or "something in front of all controllers (middleware)"
        yield exam.find("served.other", file, line, other=other, **common)
    elif not last.answer.body.strip() and status not in (204, 205) and _is_page(last):
        yield exam.find("served.empty", file, line, **common)
    else:
        yield from _marks(exam, last, common)
    yield from _login(exam, asks, file, line)


def _comes_of_guess(asked: PageRequest) -> bool:
    """True where an answer may be due to the values that were guessed for an address, and right for them."""
    error = asked.log.get("error")
    if error is not None and asked.answer.status >= SERVER_FAILS:
        text = str(error["chain"][-1]["text"]).strip("'\"")
        return not is_of_code(error) or text in asked.path.split("/")
    if asked.answer.status == 0:
        return False
    return not 200 <= asked.answer.status < 300 or not asked.answer.body.strip()


#  a link that a browser follows by itself: what scripts make of others is theirs
_LINK = re.compile(rb"<a\b(?![^>]*\s(?:hx-|data-|on))[^>]*\bhref=[\"']([^\"'?#]+)")


def _linking(exam: Examination, path: str) -> str | None:
    """Return a page that links to a path; None for none that was asked for."""
    requests = [one for asked in (exam.live.asked if exam.live is not None else {}).values() for one in asked]
    wanted = path.encode()
    return next((one.path for one in requests if wanted in _LINK.findall(one.answer.body)), None)


def _is_page(asked: PageRequest) -> bool:
    """True for what is meant for people to read: a text of another kind may well be empty."""
    return "html" in asked.answer.headers.get("content-type", "html")


#  what a query is told when it runs, which is where a template goes through it (Django 5.2)
_NO_FIELD = re.compile(
    r"select_related: '(\w+)|Cannot resolve keyword '(\w+)' into field|Cannot find '(\w+)' on \w+ object"
)


def _query_behind(
    exam: Examination, error: dict[str, Any], place: tuple[Path, int], controller: Path
) -> tuple[Path, int]:
    """Return the line of the controller's file that asks for a field that is not there: templates run queries.

    Any other error keeps the place that it has.
    """
    told = next((found for one in error["chain"] if (found := _NO_FIELD.search(str(one["text"])))), None)
    if told is None or place[0].suffix == ".py":
        return place
    name = next(filter(None, told.groups()))
    source = exam.view.project.parse(controller)
    for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
        said = node.arg if isinstance(node, ast.keyword) else getattr(node, "value", None)
        if (
            isinstance(node, ast.keyword | ast.Constant)
            and isinstance(said, str)
            and name in said.lstrip("-").split("__")
        ):
            return controller, node.lineno
    return place


def _failure(exam: Examination, last: PageRequest, file: Path, line: int, common: dict[str, Any]) -> Finding:
    error = last.log["error"]
    kinds = [entry["kind"] for entry in error["chain"]]
    passed = error.get("place")
    place = (Path(passed[0]), passed[1]) if passed else (file, line)
    place = _query_behind(exam, error, place, file)
    if error.get("circle"):
        return _circle(exam, [(str(one), int(number)) for one, number in error["circle"]], common)
    if "TemplateDoesNotExist" in kinds:
        name = error["chain"][kinds.index("TemplateDoesNotExist")]["text"].split(",")[0]
        folder = exam.module.folder / "templates"
        known = [path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file()]
        match = nearest(name, known)
        near = said_near(match)
        expected = exam.view.relative(folder / name)
        return exam.find("served.template-absent", *place, template=name, nearest=near, expected=expected, **common)
    if "TemplateSyntaxError" in kinds or ("UnicodeDecodeError" in kinds and place[0].suffix != ".py"):
        return exam.find("served.template-broken", *place, error=said(error), **common)
    if set(kinds) & {"OperationalError", "ProgrammingError"} and "no such" in error["chain"][0]["text"].lower():
        return exam.find("served.table-absent", *place, error=said(error), **common)
    return exam.find("served.error", *place, error=said(error), **common)


def _circle(exam: Examination, circle: list[tuple[str, int]], common: dict[str, Any]) -> Finding:
    """Tell of a circle of templates: the one that most others extend is a layout, and should extend none of them."""
    layouts = [template.extends for module in exam.view.modules for template in module.templates if template.extends]

    def extended(number: int) -> int:
        return sum(circle[number][0].endswith(f"/templates/{name}") for name in layouts)

    begin = max(range(len(circle)), key=extended)
    circle = [*circle[begin:], *circle[:begin], circle[begin]]
    names = " → ".join(exam.view.relative(Path(file)) for file, _ in circle)
    return exam.find("served.template-circle", Path(circle[0][0]), circle[0][1], templates=names, **common)


def _redirected(exam: Examination, asks: list[PageRequest], file: Path, line: int) -> Iterator[Finding]:
    """A page that only sends on is well when it sends on to the host itself; to the login page for all it is not."""
    last = asks[-1]
    login = str((exam.live.answers.get("settings") or {}).get("login", "")) if exam.live else ""
    target = last.answer.headers.get("location", "").partition("?")[0]
    if len(asks) > 1 and target == login:
        view = last.route["view"].removeprefix(exam.module.name + ".")
        yield exam.find("permitted.nobody", file, line, path=last.path, status=last.answer.status, view=view)


def _login(exam: Examination, asks: list[PageRequest], file: Path, line: int) -> Iterator[Finding]:
    assert exam.live is not None
    login = str((exam.live.answers.get("settings") or {}).get("login", ""))
    first = asks[0]
    target = first.answer.headers.get("location", "").partition("?")[0]
    if first.answer.status in REDIRECTS and target == login and exam.live.login_served is False:
        said = exam.view.settings.get("LOGIN_URL") if exam.view.settings is not None else None
        place = (said.file, said.line) if said is not None else (file, line)
        yield exam.find("permitted.login-absent", *place, path=first.path, login=login)


def _marks(exam: Examination, last: PageRequest, common: dict[str, Any]) -> Iterator[Finding]:
    folder = str(exam.module.folder.resolve()) + "/"
    mine = [entry for entry in last.log.get("templates", []) if str(entry["file"]).startswith(folder)]
    marked = [entry for entry in mine if entry["marks"]]
    if marked and not mark_in(last.log, last.answer.body, exam):
        path = Path(marked[0]["file"])
        yield exam.find("served.mark-absent", path, 1, template=exam.view.relative(path), **common)


LIVE = (answers,)
