"""Types of pages that editors write."""

from __future__ import annotations

import ast
import json
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ......core.names import NameFamily, at_beginning, name_family, words_of
from ......core.parts.pagetypes import PageType
from ..code import spelled
from .records import RecordReading
from .values import has_table, meta_text, text_of

if TYPE_CHECKING:
    pass


class PageTypeReading(RecordReading):
    """Reads models of pages."""

    def page_types(self) -> Iterator[PageType]:
        """Yield the types of pages; where one is made in the tree is said by the module's list of pages."""
        if "page_type" not in self.view.data.parts:
            return
        placed = self.placed_pages()
        known = {"Page"}
        for path in [*self.model_files, self.module.folder / "page_types.py"]:
            tree = self.tree(path)
            for node in tree.body if tree is not None else ():
                if not isinstance(node, ast.ClassDef) or not has_table(node):
                    continue
                if not known & {spelled(base).rpartition(".")[2] for base in node.bases}:
                    continue
                known.add(node.name)
                name = name_family(node.name, what="page type")
                self.places["page_type", name.snake] = (path, node.lineno)
                if self.names_only:
                    continue
                title = at_beginning(meta_text(node, "verbose_name"))
                if title and words_of(title)[0] == name.words:
                    name = NameFamily(title, name.words)
                fields = tuple(field for field in self.fields(path, node) if field is not None)
                lists = {key: self.types_named(node, key) for key in ("parent_page_types", "subpage_types")}
                page = placed.get(node.name, {})
                yield PageType(
                    name,
                    fields,
                    (ast.get_docstring(node) or "").split("\n")[0],
                    lists["parent_page_types"] or (),
                    ("nothing",) if lists["subpage_types"] == () else lists["subpage_types"] or (),
                    str(page.get("title", "")),
                    str(page.get("below", "/")),
                    bool(page.get("live", True)),
                )

    def types_named(self, node: ast.ClassDef, key: str) -> tuple[str, ...] | None:
        """Return the types that a list of a page type names, the module's own by name; None where there is no list."""
        for statement in node.body:
            if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                if statement.targets[0].id == key and isinstance(statement.value, ast.List | ast.Tuple):
                    texts = [text_of(one) for one in statement.value.elts]
                    own = f"{self.module.label}."
                    return tuple(
                        " ".join(words_of(text.removeprefix(own))[0]).capitalize() if text.startswith(own) else text
                        for text in texts
                        if text
                    )
        return None

    def placed_pages(self) -> dict[str, dict[str, Any]]:
        """Return what the module's list of pages says, by type."""

        try:
            told = json.loads((self.module.folder / "page_tree.json").read_text("utf-8"))
            return {str(entry["type"]): entry for entry in told}
        except (OSError, ValueError, KeyError, TypeError):
            return {}
