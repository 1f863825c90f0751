"""Lines, indentation and comments: the source of a node without its place, and a block put into another place."""

from __future__ import annotations

import ast
import re

from ..python import Sequenced, Text
from .keys import HOLDERS, Holder


def first_line(node: ast.stmt) -> int:
    """Return the line on which a statement begins: with its decorators."""
    decorators = node.decorator_list if isinstance(node, HOLDERS) else []
    return min([node.lineno, *(one.lineno for one in decorators)])


def source_of(text: Text, node: ast.stmt | ast.expr) -> str:
    """Return a node's source without the indentation of its place, with the comments above a statement."""
    if isinstance(node, ast.expr):
        return _dedented(text.text[text.start(node) : text.end(node)], node.col_offset, node)
    first = first_line(node)
    while first > 1 and text.lines[first - 2].lstrip().startswith("#"):
        first -= 1
    begin = text.starts[first - 1]
    end = text.line_end(text.end(node)) if _rest_is_comment(text, node) else text.end(node)
    source = text.text[begin:end].rstrip("\n")
    return _dedented(source[node.col_offset :], node.col_offset, node)


def _rest_is_comment(text: Text, node: ast.stmt) -> bool:
    return text.text[text.end(node) : text.line_end(text.end(node))].strip().startswith("#")


def item_source(text: Text, holder: ast.expr, index: int) -> str:
    """Return the source of an item of a list, a dictionary or a call, with its key or name."""
    if isinstance(holder, ast.Call):
        named = index - len(holder.args)
        value = holder.args[index] if named < 0 else holder.keywords[named].value
        source = source_of(text, value)
        return source if named < 0 else f"{holder.keywords[named].arg}={source}"
    if isinstance(holder, ast.Dict):
        key = holder.keys[index]
        start = text.start(key) if key is not None else text.start(holder.values[index])
        column = key.col_offset if key is not None else 0
        return _dedented(text.text[start : text.end(holder.values[index])], column, holder)
    assert isinstance(holder, Sequenced)
    return source_of(text, holder.elts[index])


def _dedented(source: str, column: int, node: ast.AST) -> str:
    """Take the indentation of a place from all lines but the first; lines inside texts stay."""
    first, *rest = source.split("\n")
    inside = _text_lines(node)
    taken = [
        line if number in inside or line[:column].strip() else line[column:]
        for number, line in enumerate(rest, getattr(node, "lineno", 1) + 1)
    ]
    return "\n".join([first, *taken])


def _text_lines(node: ast.AST) -> set[int]:
    """Return the lines that lie inside texts of several lines."""
    return {
        line
        for one in ast.walk(node)
        if isinstance(one, ast.Constant | ast.JoinedStr) and one.end_lineno and one.end_lineno > one.lineno
        for line in range(one.lineno + 1, one.end_lineno + 1)
    }


def gap_above(text: Text, node: ast.stmt) -> int:
    """Count the blank lines above a statement and its comments."""
    line = first_line(node) - 1
    while line > 0 and text.lines[line - 1].lstrip().startswith("#"):
        line -= 1
    count = 0
    while line > 0 and not text.lines[line - 1].strip():
        count, line = count + 1, line - 1
    return count


def gap_below(text: Text, node: ast.stmt) -> int:
    """Count the blank lines below a statement."""
    line, count = node.end_lineno or node.lineno, 0
    while line < len(text.lines) and not text.lines[line].strip():
        count, line = count + 1, line + 1
    return count if line < len(text.lines) else 0


def put_below(text: str, source: Text, node: ast.stmt, block: str, gap: int) -> str:
    """Put a block below a statement, with blank lines around it."""
    at = source.line_end(source.end(node))
    joint = "" if at and text[at - 1] == "\n" else "\n"
    following = text[at:]
    tail = ""
    if following.strip() and not following.startswith("\n") and gap:
        tail = "\n" * gap
    return text[:at] + joint + "\n" * gap + block + "\n" + tail + following


def put_above(text: str, source: Text, node: ast.stmt, block: str, gap: int) -> str:
    """Put a block above a statement and its comments, with blank lines behind it."""
    line = first_line(node)
    while line > 1 and source.lines[line - 2].lstrip().startswith("#"):
        line -= 1
    at = source.starts[line - 1]
    return text[:at] + block + "\n" + "\n" * gap + text[at:]


def indent_of(source: Text, holder: Holder) -> str:
    """Return the indentation of the statements of a body."""
    if isinstance(holder, ast.Module):
        return ""
    first = holder.body[0]
    return source.indent(source.starts[first_line(first) - 1] + len(_leading(source.lines[first_line(first) - 1]))) or (
        (source.indent(source.start(holder)) or "") + unit_of(source.text)
    )


def _leading(line: str) -> str:
    return line[: len(line) - len(line.lstrip())]


def unit_of(text: str) -> str:
    """Return the indentation of one level in a text."""
    found = re.search(r":[ \t]*(?:#.*)?\n([ \t]+)\S", text)
    return "\t" if found and found.group(1).startswith("\t") else "    "


def indented(source: str, indent: str, unit: str) -> str:
    """Indent a source for its place, with the unit of the file."""
    result = []
    for number, line in enumerate(source.split("\n")):
        depth = len(line) - len(line.lstrip(" "))
        inner = unit * (depth // 4) + " " * (depth % 4) if unit != "    " else " " * depth
        result.append((indent if line.strip() or not number else "") + inner + line[depth:] if line.strip() else "")
    return "\n".join(result)
