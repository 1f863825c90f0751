"""What tells the statements and items of a Python source from each other, and one difference between two sources."""

from __future__ import annotations

import ast
from collections.abc import Sequence
from typing import NamedTuple

from ..python import Sequenced

Key = tuple[str, str]
Path = tuple[Key, ...]
Holder = ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef
HOLDERS = (ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)


class Change(NamedTuple):
    """One difference.

    sort   -- ``import``, ``statement``, ``item``, ``value`` or ``gone``
    path   -- the keys that lead to the body or value that changes
    source -- the new source; empty for what is gone
    old    -- the source before, in the normal form of the syntax tree; empty for what is new
    beside -- for what is new: keys that stand before it, nearest first, and those that stand after it
    gap    -- blank lines that stand before it, below -- those behind it
    """

    sort: str
    path: Path
    key: Key
    source: str
    old: str = ""
    beside: tuple[tuple[Key, ...], tuple[Key, ...]] = ((), ())
    gap: int = 0
    below: int = 0


def keyed(holder: Holder) -> list[tuple[Key, ast.stmt]]:
    """Return the statements of a body with what tells each from the others; later ones of one key are left out."""
    found: dict[Key, ast.stmt] = {}
    for number, node in enumerate(holder.body):
        found.setdefault(key_of(node, number), node)
    return list(found.items())


def key_of(node: ast.stmt, number: int) -> Key:
    """Return what tells a statement from the others of its body; ``number`` is its place there."""
    if isinstance(node, ast.ImportFrom):
        return "import", "." * node.level + (node.module or "")
    if isinstance(node, ast.Import):
        return "import", f"import {node.names[0].name}"
    if isinstance(node, HOLDERS):
        return "definition", node.name
    if (
        isinstance(node, ast.Assign)
        and len(node.targets) == 1
        and isinstance(node.targets[0], ast.Name | ast.Attribute)
    ):
        return "name", ast.unparse(node.targets[0])
    if isinstance(node, ast.AnnAssign):
        return "name", ast.unparse(node.target)
    if number == 0 and isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
        return "docstring", ""
    if isinstance(node, ast.Return):
        return "return", ""
    return "code", ast.unparse(node)


def value_of(node: ast.stmt) -> ast.expr | None:
    """Return the value that a statement assigns, returns or is."""
    return node.value if isinstance(node, ast.Assign | ast.AnnAssign | ast.Return | ast.Expr) else None


def items_of(node: ast.expr) -> list[tuple[Key, ast.expr]] | None:
    """Return the items of a list, tuple, set or dictionary, or the named arguments of a call, with their keys."""
    if isinstance(node, ast.Dict):
        return [
            (("item", ast.unparse(key) if key else "**"), value)
            for key, value in zip(node.keys, node.values, strict=True)
        ]
    if isinstance(node, Sequenced):
        return [(("item", _item_key(one)), one) for one in node.elts]
    if isinstance(node, ast.Call) and not any(isinstance(one, ast.Starred) for one in node.args):
        plain = [(("item", f"argument {number}"), one) for number, one in enumerate(node.args)]
        return plain + [(("item", f"{word.arg}="), word.value) for word in node.keywords]
    return None


def _item_key(node: ast.expr) -> str:
    """A dictionary in a list is known by its first two values; everything else by itself."""
    if isinstance(node, ast.Dict):
        return " ".join(ast.unparse(value) for value in node.values[:2])
    return ast.unparse(node)


def header_of(node: ast.stmt) -> str:
    """Return what stands before the body: name, bases or arguments, decorators."""
    copied = ast.parse(ast.unparse(node)).body[0]
    assert isinstance(copied, HOLDERS)
    copied.body = [ast.Pass()]
    return ast.unparse(copied)


def holder_of(text: str, path: Path) -> tuple[Holder | ast.stmt | ast.expr | None, ast.Module]:
    """Follow a path of keys; returns the body, statement or value at its end, None when it is not there."""
    tree = ast.parse(text)
    found: Holder | ast.stmt | ast.expr | None = tree
    for key in path:
        if key[0] == "item":
            held = value_of(found) if isinstance(found, ast.stmt) else found
            items = items_of(held) if isinstance(held, ast.expr) else None
            found = next((node for one, node in items or [] if one == key), None)
        elif isinstance(found, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
            found = dict(keyed(found)).get(key)
        else:
            return None, tree
    return found, tree


def path_text(path: Sequence[Key]) -> str:
    """Return a path as a person reads it."""
    return ".".join(key for _, key in path if key) or "the file"
