"""Whether the host answers with the module's page, whole: a status alone proves nothing here."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ...reading.routes import pages_of

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination, Request


def templates(one: Examination) -> Iterator[Finding]:
    """Templates without the theme's head or foot, and pages of made modules whose template is absent."""
    module = one.module
    if module.single:
        return
    for file in module.files:
        if file.path.parent.name == "templates":
            names = {call.name for call in file.calls}
            if "get_header" in names and "get_footer" not in names:
                yield one.find("served.no-footer", file.path, 1)
            elif "get_footer" in names and "get_header" not in names:
                yield one.find("served.no-header", file.path, 1)
    if not one.ours or not (module.place / "templates").is_dir():
        return
    for page in pages_of(module):
        name = page.query.partition("_page=")[2].partition("&")[0]
        if name and not (module.place / "templates" / f"{name}.php").is_file():
            yield one.find("served.template-absent", page.file.path, page.line, template=f"templates/{name}.php")


def pages(one: Examination) -> Iterator[Finding]:
    """What the answers to requests show."""
    if not one.loaded:
        return
    told: set[str] = set()
    for request in one.requests:
        found = _wrong(one, request)
        if found is not None and (found.code, found.place) not in told:  # type: ignore[comparison-overlap]
            told.add((found.code, found.place))  # type: ignore[arg-type]
            yield found
    for request in one.requests:
        for _, message, file, line in request.answer.problems:
            if one.holds(file) and f"{file}:{line}" not in told:
                told.add(f"{file}:{line}")
                yield one.find(
                    "served.warns", file, line, path=request.path, reason=" ".join(str(message).split())[:200]
                )


def _wrong(one: Examination, request: Request) -> Finding | None:
    answer = request.answer
    main = one.module.main or one.module.place
    if answer.failure:
        return one.find("served.no-answer", main, 0, path=request.path, reason=answer.failure)
    if answer.fatal is not None:
        inside = one.holds(answer.fatal.file)
        place, line = (Path(answer.fatal.file), answer.fatal.line) if inside else (main, 0)
        others = [module for module in one.view.modules if module is not one.module]
        if not inside and any(module.place in Path(answer.fatal.file).parents for module in others):
            return None  # it is the other module's finding
        at = "" if inside else f" (in {one.view.relative(Path(answer.fatal.file))}:{answer.fatal.line})"
        code = "served.cut-off" if answer.status < 500 else "served.breaks"
        return one.find(code, place, line, path=request.path, status=answer.status, reason=answer.fatal.said, at=at)
    if request.sort == "endpoint":
        if answer.status >= 500:
            return one.find(
                "served.breaks", main, 0, path=request.path, status=answer.status, reason=answer.body[:200], at=""
            )
        if request.exact and answer.status == 404:
            return one.find("served.not-found", main, 0, path=request.path)
        return None
    if answer.status >= 500:
        reason = _text_of(answer.body) or "it does not say why"
        return one.find("served.breaks", main, 0, path=request.path, status=answer.status, reason=reason, at="")
    if request.sort == "screen":
        return None
    return _wrong_page(one, request)


def _text_of(page: str) -> str:
    """Return what a reader sees of an error page: the host explains itself there, for example without its database."""
    seen = re.sub(r"(?is)<(head|style|script)\b.*?</\1\s*>|<[^>]*>", " ", page)
    return " ".join(html.unescape(seen).split())[:200]


def _wrong_page(one: Examination, request: Request) -> Finding | None:
    answer = request.answer
    page = next((rule for rule in pages_of(one.module) if rule.path == request.path), None)
    place, line = (page.file.path, page.line) if page is not None else (one.module.main or one.module.place, 0)
    template = answer.template[0] if answer.template else ""
    if request.exact and answer.status == 404:
        return one.find("served.not-found", place, line, path=request.path)
    if answer.status in (301, 302, 307, 308) and "wp-login.php" not in answer.headers.get("location", ""):
        return one.find(
            "served.redirects", place, line, path=request.path, where=answer.headers.get("location", "")[:120]
        )
    if answer.status != 200:
        return None
    if template and not Path(template).is_file():
        return one.find("served.template-absent", place, line, template=one.view.relative(Path(template)))
    theme = one.view.root / "wp-content/themes"
    overridden = theme in Path(template).parents and one.module.name in Path(template).parts
    if request.exact and template and not one.holds(template) and not overridden and page is not None:
        return one.find("served.not-own", place, line, path=request.path, template=one.view.relative(Path(template)))
    if not answer.body.strip():
        return one.find("served.empty", place, line, path=request.path)
    if "</html>" not in answer.body[-400:].lower():
        at = one.view.relative(Path(template)) if template else "its template"
        drawn = Path(template) if template and one.holds(template) else place
        return one.find(
            "served.cut-off", drawn, 0, path=request.path, status=200, reason=f"{at} ends before the page does", at=""
        )
    return None
