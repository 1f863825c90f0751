"""The differences between two Python sources that were generated from one template."""

from __future__ import annotations

import ast
from collections.abc import Iterator

from ..python import Text
from .keys import HOLDERS, Change, Holder, Key, Path, header_of, items_of, keyed, value_of
from .layout import gap_above, gap_below, item_source, source_of


def differences(path: Path, before: Holder | None, after: Holder, text: Text) -> Iterator[Change]:
    """Yield what the body at a path has that the one before had not, has otherwise, or has no more.

    text -- the source of ``after``
    """
    old = dict(keyed(before)) if before is not None else {}
    new = keyed(after)
    keys = [key for key, _ in new]
    for index, (key, node) in enumerate(new):
        beside = (tuple(reversed(keys[:index])), tuple(keys[index + 1 :]))
        if key[0] == "import":
            assert isinstance(node, ast.Import | ast.ImportFrom)
            held = old.get(key)
            known = {alias.name for alias in held.names} if isinstance(held, ast.Import | ast.ImportFrom) else set()
            if {alias.name for alias in node.names} - known:
                gap, below = gap_above(text, node), gap_below(text, node)
                yield Change("import", path, key, source_of(text, node), "", beside, gap, below)
        elif key not in old:
            yield Change("statement", path, key, source_of(text, node), "", beside, gap_above(text, node))
        elif ast.unparse(old[key]) != ast.unparse(node):
            yield from _inside((*path, key), key, old[key], node, text)
    for key, node in old.items():
        if key not in keys and key[0] != "import":
            yield Change("gone", path, key, "", ast.unparse(node))


def _inside(path: Path, key: Key, old: ast.stmt, new: ast.stmt, text: Text) -> Iterator[Change]:
    if isinstance(old, HOLDERS) and isinstance(new, HOLDERS) and header_of(old) == header_of(new):
        yield from differences(path, old, new, text)
        return
    left, right = value_of(old), value_of(new)
    if left is not None and right is not None:
        yield from _in_value(path, left, right, text)
    else:
        yield Change("value", path, key, source_of(text, new), ast.unparse(old))


def _in_value(path: Path, old: ast.expr, new: ast.expr, text: Text) -> Iterator[Change]:
    old_items, new_items = items_of(old), items_of(new)
    same_call = not isinstance(old, ast.Call) or ast.unparse(old.func) == ast.unparse(new.func)  # type: ignore[attr-defined]
    if type(old) is not type(new) or old_items is None or new_items is None or not same_call:
        yield Change("value", path, path[-1], source_of(text, new), ast.unparse(old))
        return
    keys = [key for key, _ in new_items]
    held = dict(old_items)
    for index, (key, node) in enumerate(new_items):
        beside = (tuple(reversed(keys[:index])), tuple(keys[index + 1 :]))
        if key not in held:
            yield Change("item", path, key, item_source(text, new, index), "", beside)
        elif ast.unparse(held[key]) != ast.unparse(node):
            yield from _in_value((*path, key), held[key], node, text)
    for key, node in old_items:
        if key not in keys:
            yield Change("gone", path, key, "", ast.unparse(node))
