"""Rights: models without any, groups that do nothing, menu entries that lead to what may not be read."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...reading.rights import access_of

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ...reading.code import CodeClass
    from ..examination import Examination


def access(exam: Examination) -> Iterator[Finding]:
    """Models that no right names, or that nobody may read."""
    if not exam.module.own:
        return
    found = access_of(exam.module)
    uses_rights = any(_is_access(record) for record in exam.module.records)
    registered = {cls.model for sort, cls in exam.listed if sort == "model"}
    for model in found.models:
        if model not in registered or (not uses_rights and not model.startswith(f"{exam.module.name}.")):
            continue
        code = next((cls for _, cls in exam.listed if cls.model == model), None)
        if model not in exam.view.models_with_rights and code is not None:
            if not model.startswith(f"{exam.module.name}.") and _is_part(code, found.models):
                continue
            if "__access__" in (code.assigned | dict.fromkeys(_words(code.node))):
                continue
            shown = next((one for one in exam.module.records if one.text("res_model") == model), None)
            shown = shown or next((one for one in exam.module.records if one.text("model") == model), None)
            path, line = (shown.path, shown.line) if shown is not None else (code.path, code.line)
            yield exam.find("permitted.no-access", path, line, model=model)
        said = [one for one in exam.module.records if _is_access(one) and one.text("model") == model]
        if said and all(one.ref("group") for one in said):
            yield exam.find("permitted.default-access", said[0].path, said[0].line, model=model)
        elif said and len(found.groups) > 1 and not any((model, "read") in pairs for pairs in found.groups.values()):
            yield exam.find("permitted.nobody", said[0].path, said[0].line, model=model)


def _is_part(code: CodeClass, models: dict[str, None]) -> bool:
    """True for rows that go with a row of another model of the module: what may be done with that one counts."""
    for name, field in code.fields.items():
        value = code.assigned.get(name)
        words = ast.unparse(value) if value is not None else ""
        if field.target in models and field.required and "CASCADE" in words:
            return True
    return False


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
    yield from _inherited(exam)
    access = access_of(exam.module)
    rights = access.groups
    titles = {record.id: record.text("name") for record in exam.module.records if record.model == "res.group"}
    for record in exam.module.records:
        if record.model != "ir.ui.menu-res.group":
            continue
        menu = exam.module.ids.get(record.ref("menu"))
        action = exam.module.ids.get(menu.ref("action")) if menu is not None else None
        model = action.text("res_model") if action is not None else ""
        title = titles.get(record.ref("group"), "")
        if model in access.models and title and menu is not None:
            may = (model, "read") in rights.get(title, set()) or (model, "read") in rights.get("", set())
            if not may:
                yield exam.find(
                    "permitted.menu-unreadable", record.path, record.line, id=menu.id, group=title, model=model
                )


def _inherited(exam: Examination) -> Iterator[Finding]:
    """Entries below one that is for some groups only, which open what those groups may not read."""
    records = exam.module.records
    access = access_of(exam.module)
    rights = access.groups
    titles = {record.id: record.text("name") for record in records if record.model == "res.group"}
    implied = {record.id for record in records if record.model == "res.group" and record.ref("parent")}
    groups: dict[str, set[str]] = {}
    for record in records:
        if record.model == "ir.ui.menu-res.group":
            groups.setdefault(record.ref("menu"), set()).add(record.ref("group"))
    for entry in records:
        if not entry.menuitem or entry.id in groups or not entry.ref("action"):
            continue
        above, seen = entry.ref("parent"), {""}
        while above in exam.module.ids and above not in groups and above not in seen:
            seen.add(above)
            above = exam.module.ids[above].ref("parent")
        action = exam.module.ids.get(entry.ref("action"))
        model = action.text("res_model") if action is not None else ""
        for group in sorted(groups.get(above, ())):
            title = titles.get(group, "")
            if model not in access.models or not title or group in implied:
                continue
            if not {(model, "read")} & (rights.get(title, set()) | rights.get("", set())):
                place = next((one for one in records if _is_access(one) and one.text("model") == model), entry)
                yield exam.find(
                    "permitted.menu-unreadable", place.path, place.line, id=entry.id, group=title, model=model
                )
