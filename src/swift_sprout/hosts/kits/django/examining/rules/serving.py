"""Permitted and served: what the running host really answered."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ......core.findings import Finding
from ......core.nearest import nearest
from ...answers import Asked
from ...asking import last_place, said
from ..evidence import mark_in
from ..examination import Examination

REDIRECTS = (301, 302, 303, 307, 308)


def answers(one: Examination) -> Iterator[Finding]:
    """Judge the answers to each page: the last person asked is the one who should have seen it."""
    by_path: dict[str, list[Asked]] = {}
    for asked in one.asked:
        by_path.setdefault(asked.path, []).append(asked)
    for asks in by_path.values():
        yield from _page(one, asks)


def _page(one: Examination, asks: list[Asked]) -> Iterator[Finding]:
    last = asks[-1]
    status, view = last.answer.status, last.route["view"]
    file, line = Path(last.route["file"] or one.module.folder), last.route["line"]
    common = {"path": last.path, "view": view.removeprefix(one.module.name + "."), "status": status}
    served_by = last.answer.headers.get("x-sprout-view", "")
    if last.route.get("answers") not in (None, view):
        return  # shadowed: said by the rule for addresses
    if status == 0:
        yield one.find("served.no-answer", file, line, error=last.answer.failure, **common)
    elif status >= 500 and "error" in last.log:
        yield _failure(one, last, file, line, common)
    elif status in (401, 403) and "json" in last.answer.headers.get("content-type", ""):
        return  # it knows its callers by something else than the host's users
    elif status in (401, 403) and len(asks) > 1:
        yield one.find("permitted.nobody", file, line, **common)
    elif status in REDIRECTS:
        yield from _redirected(one, asks, file, line)
    elif status == 405:
        return  # made for other methods than the one that asks for a page
    elif status == 404 and last.route.get("guessed"):
        return  # what stands in its address is made up: there may well be nothing of the kind
    elif not 200 <= status < 300:
        yield one.find("served.status", file, line, **common)
    elif served_by != view:
        other = served_by or "something in front of all controllers (middleware)"
        yield one.find("served.other", file, line, other=other, **common)
    elif not last.answer.body.strip() and status != 204:
        yield one.find("served.empty", file, line, **common)
    else:
        yield from _marks(one, last, common)
    yield from _login(one, asks, file, line)


def _failure(one: Examination, last: Asked, file: Path, line: int, common: dict[str, Any]) -> Finding:
    error = last.log["error"]
    kinds = [entry["kind"] for entry in error["chain"]]
    place = last_place(error, one.module.folder) or (file, line)
    template = error.get("template") or {}
    if "TemplateDoesNotExist" in kinds:
        name = error["chain"][kinds.index("TemplateDoesNotExist")]["text"].split(",")[0]
        folder = one.module.folder / "templates"
        known = [path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file()]
        match = nearest(name, known)
        near = f" (nearest there: {match})" if match else ""
        expected = one.view.relative(folder / name)
        return one.find("served.template-absent", *place, template=name, nearest=near, expected=expected, **common)
    if "TemplateSyntaxError" in kinds or template.get("file"):
        origin = Path(template["file"]) if template.get("file") else place[0]
        at = template.get("line") or place[1]
        if "TemplateSyntaxError" in kinds:
            return one.find("served.template-broken", origin, at, error=said(error), **common)
        place = (origin, at) if str(origin).startswith(str(one.module.folder.resolve())) else place
    if set(kinds) & {"OperationalError", "ProgrammingError"} and "no such" in error["chain"][0]["text"].lower():
        return one.find("served.table-absent", *place, error=said(error), **common)
    return one.find("served.error", *place, error=said(error), **common)


def _redirected(one: Examination, asks: list[Asked], file: Path, line: int) -> Iterator[Finding]:
    """A page that only sends on is well when it sends on to the host itself; to the login page for all it is not."""
    last = asks[-1]
    login = str((one.live.answers.get("settings") or {}).get("login", "")) if one.live else ""
    target = last.answer.headers.get("location", "").partition("?")[0]
    if len(asks) > 1 and target == login:
        view = last.route["view"].removeprefix(one.module.name + ".")
        yield one.find("permitted.nobody", file, line, path=last.path, status=last.answer.status, view=view)


def _login(one: Examination, asks: list[Asked], file: Path, line: int) -> Iterator[Finding]:
    assert one.live is not None
    login = str((one.live.answers.get("settings") or {}).get("login", ""))
    first = asks[0]
    target = first.answer.headers.get("location", "").partition("?")[0]
    if first.answer.status in REDIRECTS and target == login and one.live.login_served is False:
        yield one.find("permitted.login-absent", file, line, path=first.path, login=login)


def _marks(one: Examination, last: Asked, common: dict[str, Any]) -> Iterator[Finding]:
    folder = str(one.module.folder.resolve()) + "/"
    mine = [entry for entry in last.log.get("templates", []) if str(entry["file"]).startswith(folder)]
    marked = [entry for entry in mine if entry["marks"]]
    if marked and not mark_in(last.log, last.answer.body, one):
        path = Path(marked[0]["file"])
        yield one.find("served.mark-absent", path, 1, template=one.view.relative(path), **common)


LIVE = (answers,)
