"""Whether the host answers with the module's page, whole: a status alone proves nothing here."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ...reading.routes import pages_of
from .code import CALLED_WRONGLY
from .routes import first_met, stale_pages

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination, Request

CLOSED = 503  # what code says on purpose: not now


def templates(exam: Examination) -> Iterator[Finding]:
    """Templates without the theme's head or foot, and pages of made modules whose template is absent."""
    module = exam.module
    if module.single:
        return
    for file in module.files:
        if file.path.parent.name == "templates":
            names = {call.name for call in file.calls}
            if "get_header" in names and "get_footer" not in names:
                yield exam.find("served.no-footer", file.path, 1)
            elif "get_footer" in names and "get_header" not in names:
                yield exam.find("served.no-header", file.path, 1)
    if not exam.ours or not (module.place / "templates").is_dir():
        return
    for page in pages_of(module):
        name = page.query.partition("_page=")[2].partition("&")[0]
        if name and not (module.place / "templates" / f"{name}.php").is_file():
            yield exam.find("served.template-absent", page.file.path, page.line, template=f"templates/{name}.php")


def pages(exam: Examination) -> Iterator[Finding]:
    """What the answers to requests show."""
    if not exam.loaded:
        return
    told: set[str] = set()
    for request in exam.requests:
        found = _wrong(exam, request)
        if found is not None and (found.code, found.place) not in told:  # type: ignore[comparison-overlap]
            told.add((found.code, found.place))  # type: ignore[arg-type]
            yield found
    for request in exam.requests:
        for _, message, file, line in request.answer.watched.problems:
            if exam.holds(file) and f"{file}:{line}" not in told and not CALLED_WRONGLY.match(message):
                told.add(f"{file}:{line}")
                yield exam.find(
                    "served.warns", file, line, path=request.path, reason=" ".join(str(message).split())[:200]
                )


def _wrong(exam: Examination, request: Request) -> Finding | None:
    answer = request.answer
    main = exam.module.main or exam.module.place
    if answer.failure:
        return exam.find("served.no-answer", main, 0, path=request.path, reason=answer.failure)
    if answer.fatal is not None:
        inside = exam.holds(answer.fatal.file)
        place, line = (Path(answer.fatal.file), answer.fatal.line) if inside else (main, 0)
        others = [module for module in exam.view.modules if module is not exam.module]
        if not inside and any(module.place in Path(answer.fatal.file).parents for module in others):
            return None  # it is the other module's finding
        at = "" if inside else f" (in {exam.view.relative(Path(answer.fatal.file))}:{answer.fatal.line})"
        code = "served.cut-off" if answer.status < 500 else "served.breaks"
        return exam.find(code, place, line, path=request.path, status=answer.status, reason=answer.fatal.said, at=at)
    if answer.status == CLOSED and not answer.database:
        said = (_text_of(answer.body) or "it does not say why").rstrip(".")
        return exam.find("served.closed", main, 0, path=request.path, reason=said)
    if request.sort == "endpoint":
        if answer.status >= 500:
            return exam.find(
                "served.breaks", main, 0, path=request.path, status=answer.status, reason=answer.body[:200], at=""
            )
        if request.exact and answer.status == 404:
            return exam.find("served.not-found", main, 0, path=request.path)
        return None
    if answer.status >= 500:
        reason = _text_of(answer.body) or "it does not say why"
        reason += f" ({answer.database})" if answer.database else ""
        return exam.find("served.breaks", main, 0, path=request.path, status=answer.status, reason=reason, at="")
    if request.sort == "screen":
        return None
    return _wrong_page(exam, request)


def _text_of(page: str) -> str:
    """Return what a reader sees of an error page: the host explains itself there, for example without its database."""
    seen = re.sub(r"(?is)<(head|style|script)\b.*?</\1\s*>|<[^>]*>", " ", page)
    return " ".join(html.unescape(seen).split())[:200]


def _wrong_page(exam: Examination, request: Request) -> Finding | None:
    answer = request.answer
    page = next((rule for rule in pages_of(exam.module) if rule.path == request.path), None)
    place: Path | str
    place, line = (page.file.path, page.line) if page is not None else (exam.module.main or exam.module.place, 0)
    if page is None and request.place[0]:
        place, line = request.place
    template = answer.template[0] if answer.template else ""
    if request.exact and answer.status == 404:
        rules = exam.answers.get("rules") or {}
        leads = first_met(rules.get("now") or {}, request.path)
        unsaved = leads is not None and (rules.get("saved") or {}).get(leads[0]) != leads[1]
        if leads is not None and unsaved and not stale_pages(exam):  # the rules of a new content type
            return exam.find("routed.rules-stale", place, line, count=1, rule=leads[0])
        return exam.find("served.not-found", place, line, path=request.path)
    if answer.status in (301, 302, 307, 308) and "wp-login.php" not in answer.headers.get("location", ""):
        if answer.watched.redirect and exam.holds(answer.watched.redirect[0]):
            place, line = answer.watched.redirect
        return exam.find(
            "served.redirects", place, line, path=request.path, where=answer.headers.get("location", "")[:120]
        )
    if answer.status != 200:
        return None
    if template and not Path(template).is_file():
        place, line = exam.line_saying(Path(template).name) or (place, line)
        return exam.find("served.template-absent", place, line, template=exam.view.relative(Path(template)))
    theme = exam.view.root / "wp-content/themes"
    overridden = theme in Path(template).parents and exam.module.name in Path(template).parts
    if request.exact and template and not exam.holds(template) and not overridden and page is not None:
        return exam.find("served.not-own", place, line, path=request.path, template=exam.view.relative(Path(template)))
    if not answer.body.strip():
        return exam.find("served.empty", place, line, path=request.path)
    if "</html>" not in answer.body[-400:].lower():
        at = exam.view.relative(Path(template)) if template else "its template"
        drawn = Path(template) if template and exam.holds(template) else place
        return exam.find(
            "served.cut-off", drawn, 0, path=request.path, status=200, reason=f"{at} ends before the page does", at=""
        )
    return None
