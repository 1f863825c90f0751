"""The entries of a module's menu, as its ``menu.py`` tells them."""

from __future__ import annotations

import ast
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ..view import HostView
    from .modules import ModuleFiles


class MenuLine(NamedTuple):
    """One entry: its title, the name of its page's address, what a user needs to see it, and where it stands."""

    title: str
    page: str
    needs: str
    side: str
    place: str


def menu_entries(view: HostView, module: ModuleFiles) -> dict[str, MenuLine]:
    """Return the entries by title; where two have one title, that of the site counts."""
    path = module.folder / "menu.py"
    source = view.project.parse(path)
    found: dict[str, MenuLine] = {}
    for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
        if not isinstance(node, ast.Dict):
            continue
        said = {
            str(key.value): _text(value)
            for key, value in zip(node.keys, node.values, strict=True)
            if isinstance(key, ast.Constant)
        }
        if said.get("title") and "needs" in said and (said["title"] not in found or said.get("side") == "site"):
            place = f"{view.relative(path)}:{node.lineno}"
            found[said["title"]] = MenuLine(
                said["title"], said.get("page", ""), said["needs"], said.get("side", "site"), place
            )
    return found


def _text(node: ast.expr) -> str:
    if isinstance(node, ast.Call) and len(node.args) == 1:
        return _text(node.args[0])
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""
