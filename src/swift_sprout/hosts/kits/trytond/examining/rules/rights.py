"""Rights: models without any, groups that do nothing, menu entries that lead to what may not be read."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...reading.rights import access_of

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination


def access(exam: Examination) -> Iterator[Finding]:
    """Models that no right names, or that nobody may read."""
    if not exam.module.own:
        return
    found = access_of(exam.module)
    registered = {cls.model for sort, cls in exam.listed if sort == "model"}
    for model in found.models:
        if model not in registered:
            continue
        code = next((cls for _, cls in exam.listed if cls.model == model), None)
        if model not in exam.view.models_with_rights and code is not None:
            if "__access__" in (code.assigned | dict.fromkeys(_words(code.node))):
                continue
            yield exam.find("permitted.no-access", code.path, code.line, model=model)
        elif len(found.groups) > 1 and not any((model, "read") in pairs for pairs in found.groups.values()):
            record = next(
                record for record in exam.module.records if _is_access(record) and record.text("model") == model
            )
            yield exam.find("permitted.nobody", record.path, record.line, model=model)


def _words(node: object) -> list[str]:
    assert isinstance(node, ast.ClassDef)
    return [one.attr for one in ast.walk(node) if isinstance(one, ast.Attribute)]


def _is_access(record: object) -> bool:
    return getattr(record, "model", "") == "ir.model.access"


def groups(exam: Examination) -> Iterator[Finding]:
    """Groups of the module that give nobody anything."""
    if not exam.module.own:
        return
    used = exam.view.referred_to
    for record in exam.module.records:
        if record.model == "res.group" and not record.update:
            if record.id in used or f"{exam.module.name}.{record.id}" in used:
                continue
            yield exam.find("permitted.group-idle", record.path, record.line, group=record.text("name") or record.id)


def menus(exam: Examination) -> Iterator[Finding]:
    """Menu entries that are shown to groups which may not read what they open."""
    if not exam.module.own:
        return
    rights = access_of(exam.module).groups
    titles = {record.id: record.text("name") for record in exam.module.records if record.model == "res.group"}
    for record in exam.module.records:
        if record.model != "ir.ui.menu-res.group":
            continue
        menu = exam.module.ids.get(record.ref("menu"))
        action = exam.module.ids.get(menu.ref("action")) if menu is not None else None
        model = action.text("res_model") if action is not None else ""
        title = titles.get(record.ref("group"), "")
        if model and title and menu is not None:
            may = (model, "read") in rights.get(title, set()) or (model, "read") in rights.get("", set())
            if not may:
                yield exam.find(
                    "permitted.menu-unreadable", record.path, record.line, id=menu.id, group=title, model=model
                )
