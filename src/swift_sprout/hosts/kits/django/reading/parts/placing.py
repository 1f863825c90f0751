"""Blocks and the menu."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.brief import Brief
from ......core.names import name_family
from ......core.parts.placing import Block, MenuEntry
from .pages import PageReading
from .values import assigned, text_of

if TYPE_CHECKING:
    pass


class PlacingReading(PageReading):
    """Reads libraries of template tags, and the menu as it is made here."""

    def blocks(self) -> Iterator[Block]:
        """Yield the blocks of the libraries of template tags."""
        for library in self.module.libraries:
            for name, line in library.blocks.items():
                if library.name.endswith("_menu") and name.endswith("_menu"):
                    continue
                self.places["block", name] = (library.path, line)
                yield Block(name_family(name, what="block"))

    def menu(self, brief: Brief) -> Iterator[MenuEntry]:
        """Read the entries of a ``menu.py`` as it is made here."""
        if not self.module.has("menu.py"):
            return
        path = self.module.folder / "menu.py"
        table = assigned(self.tree(path), "MENU")
        names = {address.name.rpartition(":")[2]: address.path for address in self.addresses()}
        pages = {page.path.rstrip("/") or "/": page.path for page in brief.pages}

        def entries(node: ast.expr | None, parent: str) -> Iterator[MenuEntry]:
            for number, one in enumerate(node.elts if isinstance(node, ast.List | ast.Tuple) else (), 1):
                if not isinstance(one, ast.Dict):
                    continue
                said = {text_of(key): value for key, value in zip(one.keys, one.values, strict=True) if key is not None}
                title = text_of(said.get("title"))
                address = names.get(text_of(said.get("page")).rpartition(":")[2], "")
                entry = MenuEntry(
                    title,
                    pages.get(address.rstrip("/") or "/", "") if address else "",
                    parent,
                    text_of(said.get("side")) or "site",
                    number * 10,
                )
                if title:
                    self.places["menu", entry.key] = (path, one.lineno)
                    yield entry
                    yield from entries(said.get("inside"), title)

        yield from entries(table, "")
