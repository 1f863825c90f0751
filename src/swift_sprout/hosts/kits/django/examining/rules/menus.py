"""Placed: menu entries that lead somewhere, and blocks that stand where the brief puts them."""

from __future__ import annotations

import ast
from collections.abc import Iterator

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from ......core.tomlplaces import line_of
from ...facts import django
from ...placing import FRONT_PAGE, front_template, is_placed, template_of
from ...registration import brief_of
from ..examination import Examination


def entries(exam: Examination) -> Iterator[Finding]:
    """Entries of the module's menu that name an address which is not there: they are left out in silence."""
    if not exam.module.has("menu.py"):
        return
    path = exam.module.folder / "menu.py"
    source = exam.view.project.parse(path)
    own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    if source is None or source.tree is None or own is None or not own.sure:
        return
    known = {route.name for route in own.routes if route.name}
    for node in ast.walk(source.tree):
        if not isinstance(node, ast.Dict):
            continue
        for key, value in zip(node.keys, node.values, strict=True):
            if not (isinstance(key, ast.Constant) and key.value == "page" and isinstance(value, ast.Constant)):
                continue
            space, _, name = str(value.value).rpartition(":")
            if value.value and space in ("", own.app_name) and name not in known:
                match = nearest(name, known)
                near = said_near(match)
                yield exam.find("placed.menu-dead", path, value.lineno, page=value.value, nearest=near)


def tag(exam: Examination) -> Iterator[Finding]:
    """A menu whose tag stands in no template."""
    if not exam.module.has("templatetags"):
        return
    path = exam.module.folder / "templatetags" / f"{exam.module.label}_menu.py"
    if path.is_file() and exam.view.entry_of(exam.module) is not None:
        if f"{exam.module.label}_menu" not in exam.view.templates.used_tags:
            yield exam.find("placed.menu-nowhere", path, 1, tag=f"{exam.module.label}_menu")


def placements(exam: Examination) -> Iterator[Finding]:
    """Blocks that do not stand where the brief puts them."""
    brief = brief_of(exam.module)
    if brief is None or not brief.placements or exam.view.entry_of(exam.module) is None:
        return
    path = exam.module.brief_file
    text = path.read_text("utf-8", "replace")
    for index, placement in enumerate(brief.placements):
        if not placement.published or placement.side != "site":
            continue
        line = line_of(text, ("placement", index))
        values = {"block": placement.block, "where": placement.place}
        template = template_of(exam.view, placement.place)
        if placement.place == FRONT_PAGE and not _front_page_told(exam):
            continue
        if template is None and not exam.view.templates.folders_told:
            continue
        if template is None:
            match = nearest(placement.place, [found.name for found in exam.view.templates.all])
            near = said_near(match)
            yield exam.find("placed.place-unknown", path, line, nearest=near, **values)
        elif not is_placed(exam.view, exam.module, brief, placement):
            yield exam.find("placed.block-not-placed", path, line, template=exam.view.relative(template), **values)


def _front_page_told(exam: Examination) -> bool:
    """True when the files tell which template the front page has."""
    root = exam.view.root_urls
    if django(exam.view.data).front_templates:
        return True
    return bool(root) and exam.view.addresses.unread_below(root) is None and front_template(exam.view) != ""


STATIC = (entries, tag, placements)
