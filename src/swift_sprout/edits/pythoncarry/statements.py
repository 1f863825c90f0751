"""One more statement in a body that a person edits; a changed value; what is gone."""

from __future__ import annotations

import ast
import re

from ..carrying import NotCarried
from ..python import Sequenced, Text, remove_item
from .items import add_item
from .keys import HOLDERS, Change, holder_of, items_of, keyed, path_text, value_of
from .layout import first_line, indent_of, indented, item_source, put_above, put_below, unit_of


def add_statement(text: str, change: Change) -> str:
    """Return a source with one more statement, between those that it was generated between."""
    holder, _ = holder_of(text, change.path)
    if not isinstance(holder, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
        raise NotCarried(0, f"{path_text(change.path)} is not there any more")
    there = dict(keyed(holder))
    if change.key in there:
        return _join(text, change, there[change.key])
    source = Text(text)
    indent = indent_of(source, holder)
    block = indented(change.source, indent, unit_of(text))
    imports = [node for key, node in keyed(holder) if key[0] == "import"]
    for key in change.beside[0]:
        if key in there and key[0] != "return":
            anchor = imports[-1] if imports and key[0] in ("import", "docstring") else there[key]
            return put_below(text, source, anchor, block, change.gap)
    for key in change.beside[1]:
        if key in there:
            return put_above(text, source, there[key], block, _gap_after(change, there[key]))
    statements = [node for node in holder.body if not isinstance(node, ast.Pass)]
    if statements:
        if isinstance(statements[-1], ast.Return):
            return put_above(text, source, statements[-1], block, 0)
        return put_below(text, source, statements[-1], block, change.gap)
    if isinstance(holder, ast.Module):
        return text + ("" if not text or text.endswith("\n") else "\n") + block + "\n"
    placeholder = holder.body[0]
    start, end = source.line_start(source.start(placeholder)), source.line_end(source.end(placeholder))
    return text[:start] + block + "\n" + text[end:]


def _gap_after(change: Change, node: ast.stmt) -> int:
    #  PEP 8: two blank lines between definitions of a file, one between those of a class
    return 2 if isinstance(node, HOLDERS) and not change.path else (1 if isinstance(node, HOLDERS) else 0)


def _join(text: str, change: Change, there: ast.stmt) -> str:
    """Join a statement with one of its key that a person has: members and items that are missing are added."""
    wanted = ast.parse(change.source).body[0] if change.key[0] != "return" else there
    if isinstance(wanted, HOLDERS):
        if ast.unparse(wanted) != ast.unparse(there):
            what = path_text((*change.path, change.key))
            raise NotCarried(there.lineno, f"{what} stands there already, written by hand")
        return text
    value = value_of(wanted)
    if isinstance(value, ast.List) and isinstance(value_of(there), ast.List | ast.Tuple):
        inner = Text(change.source)
        for index, (key, _node) in enumerate(items_of(value) or []):
            path = (*change.path, change.key)
            text = add_item(text, Change("item", path, key, item_source(inner, value, index)))
    return text


def change_value(text: str, change: Change) -> str:
    """Return a source with another value; raises NotCarried where a person has changed it."""
    found, _ = holder_of(text, change.path)
    if found is None:
        raise NotCarried(0, f"{path_text(change.path)} is not there any more")
    node = (value_of(found) or found) if isinstance(found, ast.stmt) and not isinstance(found, HOLDERS) else found
    assert isinstance(node, ast.stmt | ast.expr)
    now = ast.unparse(node)
    wanted = ast.unparse(ast.parse(change.source).body[0])
    if now == wanted or ast.unparse(found) == wanted:
        return text
    if change.old not in (now, ast.unparse(found)):
        raise NotCarried(node.lineno, f"{path_text(change.path)} was changed by hand")
    source = Text(text)
    if isinstance(node, ast.expr):
        return text[: source.start(node)] + change.source + text[source.end(node) :]
    start = source.starts[first_line(node) - 1]
    indent = source.indent(source.start(node)) or ""
    return text[:start] + indented(change.source, indent, unit_of(text)) + text[source.end(node) :]


def take_away(text: str, change: Change) -> str:
    """Return a source without a statement or item; raises NotCarried where a person has changed it."""
    holder, _ = holder_of(text, change.path)
    if isinstance(holder, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
        node = dict(keyed(holder)).get(change.key)
        if node is None:
            return text
        if ast.unparse(node) != change.old:
            raise NotCarried(node.lineno, f"{path_text((*change.path, change.key))} was changed by hand")
        source = Text(text)
        start = source.starts[first_line(node) - 1]
        return text[:start].rstrip("\n") + "\n" + text[source.line_end(source.end(node)) :]
    held = value_of(holder) if isinstance(holder, ast.stmt) else holder
    items = items_of(held) if isinstance(held, ast.expr) else None
    keys = [key for key, _ in items or []]
    if change.key in keys and isinstance(held, Sequenced):
        return remove_item(text, held, keys.index(change.key))
    if change.key in keys and isinstance(held, ast.Call) and change.key[1].endswith("="):
        value = dict(items or [])[change.key]
        if ast.unparse(value) != change.old:
            raise NotCarried(value.lineno, f"{path_text((*change.path, change.key))} was changed by hand")
        source = Text(text)
        found = re.search(rf",\s*{re.escape(change.key[1])}\s*\Z", text[: source.start(value)])
        if found:
            return text[: found.start()] + text[source.end(value) :]
        raise NotCarried(value.lineno, f"{path_text((*change.path, change.key))} cannot be taken out")
    return text
