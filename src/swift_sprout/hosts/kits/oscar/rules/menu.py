"""The dashboard's menu: entries that break it for everybody, and screens that no entry leads to."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .....core.nearest import near_text
from ...django.asking import last_place, said
from ..facts import oscar
from .reading import addresses_told, config_node, is_dashboard_config, menu_entries, namespace_of, own_routes

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination


def entries(exam: Examination) -> Iterator[Finding]:
    """Entries without a label, that lead to no address, or whose module the menu cannot ask for rights."""
    node, _ = config_node(exam)
    names = {route.name for route in own_routes(exam) if route.name}
    namespace = namespace_of(exam)
    told = False
    for entry in menu_entries(exam):
        if not entry.has_label:
            yield exam.find("placed.navigation-label-absent", entry.path, entry.line)
        space, colon, name = entry.url_name.rpartition(":")
        if colon and space == namespace and names and name not in names and addresses_told(exam):
            near = near_text(name, names)
            yield exam.find("placed.navigation-address-unknown", entry.path, entry.line, name=entry.url_name, near=near)
        elif colon and space == namespace and node is not None and not is_dashboard_config(exam) and not told:
            told = not entry.has_access
            if told:
                values = {"config": node.name, "name": entry.url_name}
                yield exam.find("placed.navigation-not-dashboard", entry.path, entry.line, **values)


def replaced(exam: Examination) -> Iterator[Finding]:
    """Code that puts a list of its own in the place of the whole menu."""
    key = oscar(exam.view.data).navigation
    for source in exam.sources:
        for node in ast.walk(source.tree) if source.tree is not None and source.mentions(key) else ():
            if isinstance(node, ast.Assign):
                target = ast.unparse(node.targets[0])
                if target.endswith(f"settings.{key}") and key not in ast.unparse(node.value):
                    yield exam.find("placed.navigation-replaced", source.path, node.lineno, key=key)


def _navigation(exam: Examination) -> dict[str, Any]:
    shop = (exam.live.answers.get("shop") or {}) if exam.live is not None else {}
    found: dict[str, Any] = shop.get("navigation") or {}
    return found


def broken(exam: Examination) -> Iterator[Finding]:
    """A menu that cannot be drawn because of this module's entries: each page of the dashboard fails with it."""
    error = _navigation(exam).get("error")
    if error is None:
        return
    text = said(error)
    for entry in menu_entries(exam):
        name = entry.url_name.rpartition(":")[2]
        if name and f"'{name}' exists in both" in text:
            yield exam.find("placed.navigation-name-taken", entry.path, entry.line, name=name, error=text)
            return
    place = last_place(error, exam.module.folder)
    if place is not None:
        yield exam.find("placed.navigation-broken", place[0], place[1], error=text)


def unseen(exam: Examination) -> Iterator[Finding]:
    """Screens that nobody finds in the menu, or that those who hold the module's rights do not."""
    shown = _navigation(exam).get("shown")
    node, path = config_node(exam)
    if not shown or node is None or not is_dashboard_config(exam):
        return
    namespace = namespace_of(exam)
    all_names = set(shown.get("superuser", ()))
    mine = {name for name in all_names if name.startswith(f"{namespace}:")}
    screens = [route for route in exam.routes if route.get("guard") and route["path"]]
    if screens and not mine:
        yield exam.find("placed.screens-not-in-menu", path, node.lineno, count=len(screens))
    for entry in menu_entries(exam):
        guard = next((route.get("guard") for route in exam.routes if route["name"] == entry.url_name), None)
        if entry.url_name in mine and entry.url_name not in shown.get(f"holder {exam.module.name}", ()):
            if "is_superuser" not in str(guard):
                yield exam.find("placed.navigation-unseen", entry.path, entry.line, name=entry.url_name)


def opened(exam: Examination) -> Iterator[Finding]:
    """Screens of the dashboard that were drawn for a visitor, whether or not their layout can do without staff."""
    for asked in exam.asked:
        if asked.who != "visitor" or asked.answer.status in (301, 302, 303, 401, 403):
            continue
        if any("/oscar/dashboard/" in str(entry["file"]) for entry in asked.log.get("templates", ())):
            file, line = asked.route["file"], asked.route["line"]
            yield exam.find(
                "permitted.screen-open",
                exam.view.relative(_path(file)),
                line,
                path=asked.path,
                name=asked.route["name"],
            )


def _path(file: str) -> Any:
    return Path(file)


def standing(exam: Examination) -> Iterator[str]:
    """Tell the module's entries that stand in the dashboard's menu."""
    shown = (_navigation(exam).get("shown") or {}).get("superuser", ())
    for entry in menu_entries(exam):
        if entry.url_name and entry.url_name in shown:
            yield f"{entry.url_name} in the dashboard's menu"


STATIC = (entries, replaced)
LIVE = (broken, unseen, opened)
