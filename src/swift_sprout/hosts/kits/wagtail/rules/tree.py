"""What the tree of pages tells: pages whose type is gone, that stand where they may not, or that are not there."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from .pagetypes import page_types

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination


def _tree(exam: Examination) -> dict[str, Any]:
    return (exam.live.answers.get("tree") or {}) if exam.live is not None else {}


def gone(exam: Examination) -> Iterator[Finding]:
    """Pages in the tree whose type is not there any more: renamed, or its module is off."""
    if exam.registered_as is None or exam.module.name in (exam.live.stopped if exam.live is not None else ()):
        return  # its types are gone because the module is
    if "routes" in (exam.live.failures if exam.live is not None else ()):
        return  # nor does a host that stops tell all of them
    for row in _tree(exam).get("gone", ()):
        if row["label"] == exam.module.label:
            models = exam.module.folder / "models.py"
            place = models if models.is_file() else exam.module.folder
            yield exam.find(
                "installed.page-type-gone", place, 0, model=row["model"], title=row["title"], path=row["path"]
            )


def standing(exam: Examination) -> Iterator[Finding]:
    """Pages that stand where their type may not, below a page that is not live, or below no site."""
    pages = [page for page in _tree(exam).get("pages", ()) if page["module"] == exam.module.name]
    places = {each.name: (each.path, each.line) for each in page_types(exam)} if pages else {}
    has_site = any(site["default"] for site in _tree(exam).get("sites", ()))
    for page in pages:
        if page["type"] not in places:
            continue
        path, line = places[page["type"]]
        if not page["allowed"]:
            yield exam.find(
                "placed.page-not-allowed",
                path,
                line,
                title=page["title"],
                type=page["type"],
                parent=page["parent"],
                above=page["parent_type"],
            )
        if page["live"] and page["drafts_above"]:
            yield exam.find("placed.parent-not-live", path, line, title=page["title"], parent=page["drafts_above"][0])
        if page["live"] and page["path"] is None and has_site:
            yield exam.find("placed.page-below-no-site", path, line, title=page["title"])


def placed(exam: Examination) -> Iterator[Finding]:
    """Pages that the module wants in the tree, and that are not there."""
    path = exam.module.folder / "page_tree.json"
    if not path.is_file() or "pages" not in _tree(exam):
        return
    try:
        wanted = json.loads(path.read_text("utf-8"))
    except ValueError as error:
        yield exam.find("described.page-tree", path, getattr(error, "lineno", 1), reason=str(error))
        return
    there = {(page["type"], page["title"]): page for page in _tree(exam)["pages"] if page["module"] == exam.module.name}
    for entry in wanted:
        page = there.get((entry["type"], entry["title"]))
        if page is None:
            yield exam.find("placed.page-absent", path, 0, title=entry["title"], below=entry["below"])
        elif entry["live"] and not page["live"]:
            yield exam.find("placed.page-not-live", path, 0, title=entry["title"])


def sites(exam: Examination) -> Iterator[Finding]:
    """A host without a default site: no page of the tree has an address."""
    tree = _tree(exam)
    if tree and not any(site["default"] for site in tree.get("sites", ())):
        pages = [page for page in tree.get("pages", ()) if page["module"] == exam.module.name and page["live"]]
        if pages:
            yield exam.find("served.no-site", exam.module.folder, 0, count=len(pages))


def reached(exam: Examination) -> Iterator[str]:
    """Tell the module's live pages of the tree, with the path at which each is reached."""
    for page in _tree(exam).get("pages", ()):
        if page["module"] == exam.module.name and page["live"] and page["path"]:
            yield f'page "{page["title"]}" at {page["path"]}'


RULES = (gone, standing, placed, sites)
