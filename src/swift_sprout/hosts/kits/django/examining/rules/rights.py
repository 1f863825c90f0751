"""Permitted: groups and their rights, settings that somebody can change, endpoints that ask who calls."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ......core.findings import Finding
from ......core.nearest import nearest, said_near, slip_in
from ...facts import django
from ...reading.code import class_named, spelled
from ..examination import Examination

_WRITING = {"post": "POST", "put": "PUT", "patch": "PATCH", "delete": "DELETE"}
#  parts of the names of Django REST framework's classes that answer a method by themselves (3.15)
_GENERIC = {"Create": "post", "Update": "put", "Destroy": "delete"}


def groups_of(exam: Examination) -> tuple[Path, int, dict[str, dict[str, Any]]]:
    """Return the table of a module's ``groups.py``: file, line, and the groups with rights and inclusions."""
    if not exam.module.has("groups.py"):
        return exam.module.folder, 0, {}
    path = exam.module.folder / "groups.py"
    source = exam.view.project.parse(path)
    for node in source.tree.body if source is not None and source.tree is not None else ():
        if isinstance(node, ast.Assign) and any(
            isinstance(one, ast.Name) and one.id == "GROUPS" for one in node.targets
        ):
            try:
                table = ast.literal_eval(node.value)
            except ValueError:
                return path, node.lineno, {}
            if isinstance(table, dict) and all(_is_group(held) for held in table.values()):
                return path, node.lineno, table
    return path, 0, {}


def _is_group(held: object) -> bool:
    """True for a group as it is made here; tables of another form are a person's own."""
    return isinstance(held, dict) and all(isinstance(held.get(key), list) for key in ("may", "includes"))


def unknown_rights(exam: Examination) -> Iterator[Finding]:
    """Groups that name a right or a group that is not there."""
    path, line, table = groups_of(exam)
    known = exam.view.permissions(exam.module.label) if table else None
    for name, group in table.items():
        for right in group.get("may", ()):
            if known is not None and f"{exam.module.label}.{right}" not in known:
                match = nearest(right, [each.partition(".")[2] for each in known])
                near = said_near(match)
                place = _line_of(path, f'"{right}"') or line
                yield exam.find("permitted.group-right-unknown", path, place, group=name, right=right, nearest=near)
        for other in group.get("includes", ()):
            if other not in table:
                place = _line_of(path, f'"{other}"') or line
                yield exam.find("permitted.group-included-absent", path, place, group=name, other=other)


def asked_in_templates(exam: Examination) -> Iterator[Finding]:
    """Rights that a template asks about and that no module brings, but must mean one that does."""
    for template in exam.module.templates:
        for right, line in template.rights:
            label, _, code = right.partition(".")
            known = exam.view.permissions(label)
            names = [one.partition(".")[2] for one in known or ()]
            meant = slip_in(code, names) if names and code not in names else None
            if meant is not None:
                values = {"right": right, "near": f"{label}.{meant}"}
                yield exam.find("permitted.template-right-unknown", template.path, line, **values)


def unwired(exam: Examination) -> Iterator[Finding]:
    """A table of groups that nothing brings into the database."""
    path, line, table = groups_of(exam)
    if not table:
        return
    if not any(source.mentions("settle_groups") for source in exam.sources if source.path != path):
        yield exam.find("permitted.groups-unwired", path, line)


def behind(exam: Examination) -> Iterator[Finding]:
    """Groups that the database does not have, or not with the rights that the module gives them."""
    path, line, table = groups_of(exam)
    told = exam.live.answers.get("rights") if exam.live is not None else None
    if not table or not told or exam.registered_as is None:
        return
    there = {group["name"]: set(group["rights"]) for group in told["groups"]}
    for name in table:
        place = _line_of(path, f'"{name}"') or line
        if name not in there:
            yield exam.find("permitted.group-absent", path, place, group=name)
            continue
        wanted = {f"{exam.module.label}.{right}" for right in closed(table, name)}
        missing = sorted((wanted & set(told["permissions"])) - there[name])
        if missing:
            values = {"group": name, "rights": ", ".join(missing)}
            yield exam.find("permitted.group-behind", path, place, **values)


def closed(table: dict[str, dict[str, Any]], name: str) -> set[str]:
    """Return a group's rights, with those of the groups it includes."""
    found: set[str] = set()
    waiting, seen = [name], set()
    while waiting:
        group = waiting.pop()
        if group in table and group not in seen:
            seen.add(group)
            found |= set(table[group].get("may", ()))
            waiting += table[group].get("includes", ())
    return found


def settings_screen(exam: Examination) -> Iterator[Finding]:
    """Settings that no screen lets an administrator change."""
    if django(exam.view.data).settings is not None or not exam.module.has("preferences.py"):
        return
    for path, node in exam.model_classes():
        if node.name != "Preferences":
            continue
        source = exam.view.project.parse(exam.module.folder / "admin.py")
        text = source.source.text if source is not None and source.source is not None else ""
        if "Preferences" not in text:
            yield exam.find("permitted.settings-no-screen", path, node.lineno)


def open_endpoints(exam: Examination) -> Iterator[Finding]:
    """Endpoints that let anyone write: a method with no right named for it."""
    source = exam.view.project.parse(f"{exam.module.place}/endpoints.py") if exam.module.has("endpoints.py") else None
    if source is None or source.tree is None or class_named(source.tree, "Endpoint") is None:
        return
    for node in source.tree.body:
        if not isinstance(node, ast.ClassDef) or not any(spelled(base) == "Endpoint" for base in node.bases):
            continue
        needs: set[str] = set()
        staff = False
        for statement in node.body:
            if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                staff = staff or statement.targets[0].id == "staff_only"
                if statement.targets[0].id == "needs" and isinstance(statement.value, ast.Dict):
                    needs = {key.value for key in statement.value.keys if isinstance(key, ast.Constant)}  # type: ignore[misc]
        written = [(one.name, one.lineno) for one in node.body if isinstance(one, ast.FunctionDef)]
        generic = " ".join(spelled(base) for base in node.bases)
        written += [(method, node.lineno) for sign, method in _GENERIC.items() if sign in generic]
        for name, line in written:
            method = _WRITING.get(name)
            if method and method not in needs and not staff:
                yield exam.find("permitted.endpoint-open", source.path, line, view=node.name, method=method)


def _line_of(path: Path, text: str) -> int:
    for number, line in enumerate(path.read_text("utf-8", "replace").splitlines(), 1):
        if text in line:
            return number
    return 0


STATIC = (unknown_rights, asked_in_templates, unwired, settings_screen, open_endpoints)
LIVE = (behind,)
