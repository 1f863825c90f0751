"""Placed: menu entries that lead somewhere, and blocks that stand where the brief puts them."""

from __future__ import annotations

import ast
from collections.abc import Iterator

from ......core.findings import Finding
from ......core.nearest import nearest
from ......core.tomlplaces import line_of
from ...placing import is_placed, template_of
from ...registration import brief_of
from ..examination import Examination


def entries(one: Examination) -> Iterator[Finding]:
    """Entries of the module's menu that name an address which is not there: they are left out in silence."""
    if not one.module.has("menu.py"):
        return
    path = one.module.folder / "menu.py"
    source = one.view.project.parse(path)
    own = one.view.addresses.file(one.module.urls) if one.module.urls else None
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
                near = f" (nearest: {match})" if match else ""
                yield one.find("placed.menu-dead", path, value.lineno, page=value.value, nearest=near)


def tag(one: Examination) -> Iterator[Finding]:
    """A menu whose tag stands in no template."""
    if not one.module.has("templatetags"):
        return
    path = one.module.folder / "templatetags" / f"{one.module.label}_menu.py"
    if path.is_file() and one.view.entry_of(one.module) is not None:
        if f"{one.module.label}_menu" not in one.view.templates.used_tags:
            yield one.find("placed.menu-nowhere", path, 1, tag=f"{one.module.label}_menu")


def placements(one: Examination) -> Iterator[Finding]:
    """Blocks that do not stand where the brief puts them."""
    brief = brief_of(one.module)
    if brief is None or not brief.placements or one.view.entry_of(one.module) is None:
        return
    path = one.module.brief_file
    text = path.read_text("utf-8", "replace")
    for index, placement in enumerate(brief.placements):
        if not placement.published or placement.side != "site":
            continue
        line = line_of(text, ("placement", index))
        values = {"block": placement.block, "where": placement.place}
        template = template_of(one.view, placement.place)
        if template is None:
            match = nearest(placement.place, [found.name for found in one.view.templates.all])
            near = f" (nearest: {match})" if match else ""
            yield one.find("placed.place-unknown", path, line, nearest=near, **values)
        elif not is_placed(one.view, one.module, brief, placement):
            yield one.find("placed.block-not-placed", path, line, template=one.view.relative(template), **values)


STATIC = (entries, tag, placements)
