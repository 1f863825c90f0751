"""One more item in a list, a dictionary or a call that a person edits."""

from __future__ import annotations

import ast
import re

from ..carrying import NotCarried
from ..python import Sequenced, Text, insert_item
from .keys import Change, holder_of, items_of, path_text, value_of
from .layout import indented, unit_of


def add_item(text: str, change: Change) -> str:
    """Return a source with one more item, between those that it was generated between."""
    held = _held_value(text, change)
    items = items_of(held)
    if items is None:
        raise NotCarried(held.lineno, f"{path_text(change.path)} is no longer written out there")
    keys = [key for key, _ in items]
    if change.key in keys:
        return text
    before = None
    for key in change.beside[0]:
        if key in keys:
            before = keys.index(key) + 1
            break
    else:
        before = next((keys.index(key) for key in change.beside[1] if key in keys), None)
    before = None if before is not None and before >= len(keys) else before
    source = Text(text)
    if isinstance(held, ast.Call):
        return _into_call(text, source, held, change)
    if isinstance(held, ast.Dict):
        return _into_dict(text, source, held, change.source, before)
    assert isinstance(held, Sequenced)
    indent = source.indent(source.start(held.elts[0])) if held.elts else None
    if indent is None and not held.elts:
        indent = re.match(r"[ \t]*", text[source.line_start(source.start(held)) :]).group() + unit_of(text)  # type: ignore[union-attr]
    block = indented(change.source, indent or "", unit_of(text)).lstrip()
    if not held.elts and "\n" in block:
        start, end = source.start(held), source.end(held)
        outer = indent[: -len(unit_of(text))] if indent else ""
        return f"{text[: start + 1]}\n{indent}{block},\n{outer}{text[end - 1 :]}"
    return insert_item(text, held, block, before=before)


def _into_call(text: str, source: Text, held: ast.Call, change: Change) -> str:
    """Give a call one more named argument, as the last."""
    if not change.key[1].endswith("="):
        raise NotCarried(held.lineno, f"{path_text(change.path)} is called in another way there")
    last = max([*held.args, *(word.value for word in held.keywords)], key=source.end, default=None)
    if last is None:
        return text[: source.end(held) - 1] + change.source + text[source.end(held) - 1 :]
    indent = source.indent(source.start(last))
    joint = ", " if indent is None else f",\n{indent}"
    return text[: source.end(last)] + joint + change.source + text[source.end(last) :]


def _into_dict(text: str, source: Text, held: ast.Dict, item: str, before: int | None) -> str:
    """Put an item into a dictionary, which is edited as the list of its keys and values would be."""
    if not held.keys:
        line = re.match(r"[ \t]*", text[source.line_start(source.start(held)) :])
        outer = line.group() if line else ""
        block = indented(item, outer + unit_of(text), unit_of(text)).lstrip()
        inner = outer + unit_of(text)
        return f"{text[: source.start(held) + 1]}\n{inner}{block},\n{outer}{text[source.end(held) - 1 :]}"
    first = held.keys[0] or held.values[0]
    indent = source.indent(source.start(first))
    block = indented(item, indent or "", unit_of(text)).lstrip()
    if before is not None:
        at = source.start(held.keys[before] or held.values[before])
        return text[:at] + block + (", " if indent is None else f",\n{indent}") + text[at:]
    end = source.end(held.values[-1])
    rest = text[end : source.end(held) - 1]
    comma = "," in re.sub(r"#[^\n]*", "", rest)
    if indent is None:
        return f"{text[:end]}, {block}{text[end:]}"
    at = source.line_end(end) if comma else end
    if not comma:
        return f"{text[:end]},\n{indent}{block}{text[end:]}"
    return f"{text[:at]}{indent}{block},\n{text[at:]}"


def _held_value(text: str, change: Change) -> ast.expr:
    found, _ = holder_of(text, change.path)
    held = value_of(found) if isinstance(found, ast.stmt) else found
    if not isinstance(held, ast.expr):
        raise NotCarried(0, f"{path_text(change.path)} is not there any more")
    return held
