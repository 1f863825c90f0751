"""Carrying the difference between two Python sources into a third, by their syntax trees.

The two sources were generated from one template, so their difference is made of a few sorts of change: imports,
statements in a body, items of a list or dictionary, and values. Each is applied on its own to the third source, which
is parsed again every time; what a person wrote there is only touched where the value that was generated still stands.
All texts have plain line ends.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from .carrying import NotCarried
from .python import Sequenced, Text, extend_import, insert_item, remove_item

Key = tuple[str, str]
Path = tuple[Key, ...]
Holder = ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef
_HOLDERS = (ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)


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


def carry_python(current: str, before: str, after: str) -> str:
    """Return ``current`` with the difference between the other two; raises SyntaxError and NotCarried."""
    ast.parse(current)
    changes = list(_differences((), ast.parse(before), ast.parse(after), Text(after)))
    text = current
    for change in changes:
        text = _APPLY[change.sort](text, change)
    for change in _imports_of_added(changes, Text(after), text):
        text = _add_import(text, change)
    ast.parse(text)
    return text


# -- the difference between the two generated sources ------------------------------------------------------------


def _imports_of_added(changes: list[Change], after: Text, text: str) -> Iterator[Change]:
    """Yield the imports that added code needs and that the file, being a person's, may not have.

    Raises NotCarried where a name that the code needs stands for something else in the file.
    """
    used: set[str] = set()
    for change in changes:
        if change.source and change.sort != "import":
            for node in ast.walk(_parsed(change.source)):
                used |= {node.id} if isinstance(node, ast.Name) else set()
    bound = _bound(ast.parse(text))
    nodes = [node for node in ast.parse(after.text).body if isinstance(node, ast.Import | ast.ImportFrom)]
    for index, node in enumerate(nodes):
        key = _key(node, 1)
        for alias in node.names:
            name = (alias.asname or alias.name).partition(".")[0]
            if name not in used:
                continue
            if name in bound:
                origin, line = bound[name]
                if origin and origin != (key[1], alias.name):
                    raise NotCarried(line, f"{name} stands for something else there than added code needs")
                continue
            beside = tuple(_key(other, 1) for other in reversed(nodes[:index]))
            behind = tuple(_key(other, 1) for other in nodes[index + 1 :])
            lone = ast.ImportFrom(node.module, [alias], node.level) if isinstance(node, ast.ImportFrom) else node
            gap, below = _gap(after, node), _gap_below(after, node)
            yield Change("import", (), key, ast.unparse(lone), "", (beside, behind), gap, below)


def _parsed(source: str) -> ast.AST:
    """Parse the source of a statement, or of an item, which for a dictionary is a key with a value."""
    try:
        return ast.parse(source)
    except SyntaxError:
        return ast.parse("{" + source + "}")


def _bound(tree: ast.Module) -> dict[str, tuple[tuple[str, str] | None, int]]:
    """Return the names that a file binds at its top: imported ones with where they come from."""
    found: dict[str, tuple[tuple[str, str] | None, int]] = {}
    for number, node in enumerate(tree.body):
        if isinstance(node, ast.Import | ast.ImportFrom):
            for alias in node.names:
                module = _key(node, 1)[1] if isinstance(node, ast.ImportFrom) else f"import {alias.name}"
                found[(alias.asname or alias.name).partition(".")[0]] = ((module, alias.name), node.lineno)
        else:
            key = _key(node, number)
            if key[0] in ("definition", "name"):
                found[key[1]] = (None, node.lineno)
    return found


def _differences(path: Path, before: Holder | None, after: Holder, text: Text) -> Iterator[Change]:
    old = dict(_keyed(before)) if before is not None else {}
    new = _keyed(after)
    keys = [key for key, _ in new]
    for index, (key, node) in enumerate(new):
        beside = (tuple(reversed(keys[:index])), tuple(keys[index + 1 :]))
        if key[0] == "import":
            assert isinstance(node, ast.Import | ast.ImportFrom)
            held = old.get(key)
            known = {alias.name for alias in held.names} if isinstance(held, ast.Import | ast.ImportFrom) else set()
            if {alias.name for alias in node.names} - known:
                gap, below = _gap(text, node), _gap_below(text, node)
                yield Change("import", path, key, _source(text, node), "", beside, gap, below)
        elif key not in old:
            yield Change("statement", path, key, _source(text, node), "", beside, _gap(text, node))
        elif ast.unparse(old[key]) != ast.unparse(node):
            yield from _inside((*path, key), key, old[key], node, text)
    for key, node in old.items():
        if key not in keys and key[0] != "import":
            yield Change("gone", path, key, "", ast.unparse(node))


def _inside(path: Path, key: Key, old: ast.stmt, new: ast.stmt, text: Text) -> Iterator[Change]:
    if isinstance(old, _HOLDERS) and isinstance(new, _HOLDERS) and _header(old) == _header(new):
        yield from _differences(path, old, new, text)
        return
    left, right = _value(old), _value(new)
    if left is not None and right is not None:
        yield from _in_value(path, left, right, text)
    else:
        yield Change("value", path, key, _source(text, new), ast.unparse(old))


def _in_value(path: Path, old: ast.expr, new: ast.expr, text: Text) -> Iterator[Change]:
    old_items, new_items = _items(old), _items(new)
    same_call = not isinstance(old, ast.Call) or ast.unparse(old.func) == ast.unparse(new.func)  # type: ignore[attr-defined]
    if type(old) is not type(new) or old_items is None or new_items is None or not same_call:
        yield Change("value", path, path[-1], _source(text, new), ast.unparse(old))
        return
    keys = [key for key, _ in new_items]
    held = dict(old_items)
    for index, (key, node) in enumerate(new_items):
        beside = (tuple(reversed(keys[:index])), tuple(keys[index + 1 :]))
        if key not in held:
            yield Change("item", path, key, _item_source(text, new, index), "", beside)
        elif ast.unparse(held[key]) != ast.unparse(node):
            yield from _in_value((*path, key), held[key], node, text)
    for key, node in old_items:
        if key not in keys:
            yield Change("gone", path, key, "", ast.unparse(node))


def _keyed(holder: Holder) -> list[tuple[Key, ast.stmt]]:
    """Return the statements of a body with what tells each from the others; later ones of one key are left out."""
    found: dict[Key, ast.stmt] = {}
    for number, node in enumerate(holder.body):
        found.setdefault(_key(node, number), node)
    return list(found.items())


def _key(node: ast.stmt, number: int) -> Key:
    if isinstance(node, ast.ImportFrom):
        return "import", "." * node.level + (node.module or "")
    if isinstance(node, ast.Import):
        return "import", f"import {node.names[0].name}"
    if isinstance(node, _HOLDERS):
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


def _value(node: ast.stmt) -> ast.expr | None:
    return node.value if isinstance(node, ast.Assign | ast.AnnAssign | ast.Return | ast.Expr) else None


def _items(node: ast.expr) -> list[tuple[Key, ast.expr]] | None:
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


def _header(node: ast.stmt) -> str:
    """Return what stands before the body: name, bases or arguments, decorators."""
    copied = ast.parse(ast.unparse(node)).body[0]
    assert isinstance(copied, _HOLDERS)
    copied.body = [ast.Pass()]
    return ast.unparse(copied)


def _first_line(node: ast.stmt) -> int:
    decorators = node.decorator_list if isinstance(node, _HOLDERS) else []
    return min([node.lineno, *(one.lineno for one in decorators)])


def _source(text: Text, node: ast.stmt | ast.expr) -> str:
    """Return a node's source without the indentation of its place, with the comments above a statement."""
    if isinstance(node, ast.expr):
        return _dedented(text.text[text.start(node) : text.end(node)], node.col_offset, node)
    first = _first_line(node)
    while first > 1 and text.lines[first - 2].lstrip().startswith("#"):
        first -= 1
    begin = text.starts[first - 1]
    end = text.line_end(text.end(node)) if _rest_is_comment(text, node) else text.end(node)
    source = text.text[begin:end].rstrip("\n")
    return _dedented(source[node.col_offset :], node.col_offset, node)


def _rest_is_comment(text: Text, node: ast.stmt) -> bool:
    return text.text[text.end(node) : text.line_end(text.end(node))].strip().startswith("#")


def _item_source(text: Text, holder: ast.expr, index: int) -> str:
    if isinstance(holder, ast.Call):
        named = index - len(holder.args)
        value = holder.args[index] if named < 0 else holder.keywords[named].value
        source = _source(text, value)
        return source if named < 0 else f"{holder.keywords[named].arg}={source}"
    if isinstance(holder, ast.Dict):
        key = holder.keys[index]
        start = text.start(key) if key is not None else text.start(holder.values[index])
        column = key.col_offset if key is not None else 0
        return _dedented(text.text[start : text.end(holder.values[index])], column, holder)
    assert isinstance(holder, Sequenced)
    return _source(text, holder.elts[index])


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


def _gap(text: Text, node: ast.stmt) -> int:
    """Count the blank lines above a statement and its comments."""
    line = _first_line(node) - 1
    while line > 0 and text.lines[line - 1].lstrip().startswith("#"):
        line -= 1
    count = 0
    while line > 0 and not text.lines[line - 1].strip():
        count, line = count + 1, line - 1
    return count


def _gap_below(text: Text, node: ast.stmt) -> int:
    """Count the blank lines below a statement."""
    line, count = node.end_lineno or node.lineno, 0
    while line < len(text.lines) and not text.lines[line].strip():
        count, line = count + 1, line + 1
    return count if line < len(text.lines) else 0


# -- applying one change to the source that a person edits -------------------------------------------------------


def _holder_of(text: str, path: Path) -> tuple[Holder | ast.stmt | ast.expr | None, ast.Module]:
    """Follow a path of keys; returns the body, statement or value at its end, None when it is not there."""
    tree = ast.parse(text)
    found: Holder | ast.stmt | ast.expr | None = tree
    for key in path:
        if key[0] == "item":
            held = _value(found) if isinstance(found, ast.stmt) else found
            items = _items(held) if isinstance(held, ast.expr) else None
            found = next((node for one, node in items or [] if one == key), None)
        elif isinstance(found, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
            found = dict(_keyed(found)).get(key)
        else:
            return None, tree
    return found, tree


def _add_statement(text: str, change: Change) -> str:
    holder, _ = _holder_of(text, change.path)
    if not isinstance(holder, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
        raise NotCarried(0, f"{_told(change.path)} is not there any more")
    there = dict(_keyed(holder))
    if change.key in there:
        return _join(text, change, there[change.key])
    source = Text(text)
    indent = _indent(source, holder)
    block = _indented(change.source, indent, _unit(text))
    imports = [node for key, node in _keyed(holder) if key[0] == "import"]
    for key in change.beside[0]:
        if key in there and key[0] != "return":
            anchor = imports[-1] if imports and key[0] in ("import", "docstring") else there[key]
            return _below(text, source, anchor, block, change.gap)
    for key in change.beside[1]:
        if key in there:
            return _above(text, source, there[key], block, _gap_after(change, there[key]))
    statements = [node for node in holder.body if not _is_placeholder(node)]
    if statements:
        if isinstance(statements[-1], ast.Return):
            return _above(text, source, statements[-1], block, 0)
        return _below(text, source, statements[-1], block, change.gap)
    if isinstance(holder, ast.Module):
        return text + ("" if not text or text.endswith("\n") else "\n") + block + "\n"
    placeholder = holder.body[0]
    start, end = source.line_start(source.start(placeholder)), source.line_end(source.end(placeholder))
    return text[:start] + block + "\n" + text[end:]


def _is_placeholder(node: ast.stmt) -> bool:
    return isinstance(node, ast.Pass)


def _gap_after(change: Change, node: ast.stmt) -> int:
    return 2 if isinstance(node, _HOLDERS) and not change.path else (1 if isinstance(node, _HOLDERS) else 0)


def _below(text: str, source: Text, node: ast.stmt, block: str, gap: int) -> str:
    at = source.line_end(source.end(node))
    joint = "" if at and text[at - 1] == "\n" else "\n"
    following = text[at:]
    tail = ""
    if following.strip() and not following.startswith("\n") and gap:
        tail = "\n" * gap
    return text[:at] + joint + "\n" * gap + block + "\n" + tail + following


def _above(text: str, source: Text, node: ast.stmt, block: str, gap: int) -> str:
    line = _first_line(node)
    while line > 1 and source.lines[line - 2].lstrip().startswith("#"):
        line -= 1
    at = source.starts[line - 1]
    return text[:at] + block + "\n" + "\n" * gap + text[at:]


def _join(text: str, change: Change, there: ast.stmt) -> str:
    """Join a statement with one of its key that a person has: members and items that are missing are added."""
    wanted = ast.parse(change.source).body[0] if change.key[0] != "return" else there
    if isinstance(wanted, _HOLDERS):
        if ast.unparse(wanted) != ast.unparse(there):
            raise NotCarried(there.lineno, f"{_told((*change.path, change.key))} stands there already, written by hand")
        return text
    value = _value(wanted)
    if isinstance(value, ast.List) and isinstance(_value(there), ast.List | ast.Tuple):
        inner = Text(change.source)
        for index, (key, _node) in enumerate(_items(value) or []):
            path = (*change.path, change.key)
            text = _add_item(text, Change("item", path, key, _item_source(inner, value, index)))
    return text


def _add_import(text: str, change: Change) -> str:
    wanted = ast.parse(change.source).body[0]
    assert isinstance(wanted, ast.Import | ast.ImportFrom)
    holder, _ = _holder_of(text, change.path)
    if not isinstance(holder, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
        raise NotCarried(0, f"{_told(change.path)} is not there any more")
    known = {
        (_key(node, 1)[1], alias.asname or alias.name)
        for node in holder.body
        if isinstance(node, ast.Import | ast.ImportFrom)
        for alias in node.names
    }
    missing = [alias for alias in wanted.names if (change.key[1], alias.asname or alias.name) not in known]
    same = [node for node in holder.body if _key(node, 1) == change.key and isinstance(node, ast.ImportFrom)]
    if missing and same and same[0].names[0].name != "*":
        for alias in missing:
            fresh, _ = _holder_of(text, change.path)
            assert isinstance(fresh, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef)
            node = next(one for one in fresh.body if _key(one, 1) == change.key)
            assert isinstance(node, ast.ImportFrom)
            text = extend_import(text, node, alias.name)
        return text
    if not missing or (same and same[0].names[0].name == "*"):
        return text
    return _new_import(text, change, holder)


def _new_import(text: str, change: Change, holder: Holder) -> str:
    source = Text(text)
    there = {key: node for key, node in _keyed(holder) if key[0] in ("import", "docstring")}
    block = _indented(change.source, _indent(source, holder), _unit(text))
    for key in change.beside[0]:
        if key in there:
            last = [node for node in holder.body if _key(node, holder.body.index(node)) == key][-1]
            position = holder.body.index(last) + 1
            behind = holder.body[position] if position < len(holder.body) else None
            if isinstance(behind, ast.Import | ast.ImportFrom) and _same_group(change.key, _key(behind, position)):
                if not _same_group(change.key, key):
                    at = source.line_start(source.start(behind))
                    return text[:at] + block + "\n" + text[at:]
            return _below(text, source, last, block, min(change.gap, 1))
    for key in change.beside[1]:
        if key in there:
            at = source.line_start(source.start(there[key]))  # below a head of comments
            next_one = key == change.beside[1][0]
            gap = min(change.below, 1) if next_one else int(not _same_group(change.key, key))
            return text[:at] + block + "\n" + "\n" * gap + text[at:]
    others = [node for key, node in _keyed(holder) if key[0] == "import"]
    alike = [node for node in others if _same_group(change.key, _key(node, 1))]
    if alike and change.key < _key(alike[0], 1):
        at = source.line_start(source.start(alike[0]))
        return text[:at] + block + "\n" + text[at:]
    if others:
        return _below(text, source, (alike or others)[-1], block, 0 if alike else 1)
    first = next((node for node in holder.body if not isinstance(node, ast.Pass)), None)
    if first is None:
        return text + block + "\n"
    if _key(first, 0)[0] == "docstring":
        return _below(text, source, first, block, 1)
    return _above(text, source, first, block, 2 if isinstance(holder, ast.Module) else 0)


def _same_group(left: Key, right: Key) -> bool:
    """True when two imports are both of the own package, or both are not."""
    return left[1].startswith(".") == right[1].startswith(".")


def _add_item(text: str, change: Change) -> str:
    held = _held_value(text, change)
    items = _items(held)
    if items is None:
        raise NotCarried(held.lineno, f"{_told(change.path)} is no longer written out there")
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
        indent = (source.indent(source.line_start(source.start(held))) or "") + _unit(text)
        indent = re.match(r"[ \t]*", text[source.line_start(source.start(held)) :]).group() + _unit(text)  # type: ignore[union-attr]
    block = _indented(change.source, indent or "", _unit(text)).lstrip()
    if not held.elts and "\n" in block:
        start, end = source.start(held), source.end(held)
        outer = indent[: -len(_unit(text))] if indent else ""
        return f"{text[: start + 1]}\n{indent}{block},\n{outer}{text[end - 1 :]}"
    return insert_item(text, held, block, before=before)


def _into_call(text: str, source: Text, held: ast.Call, change: Change) -> str:
    """Give a call one more named argument, as the last."""
    if not change.key[1].endswith("="):
        raise NotCarried(held.lineno, f"{_told(change.path)} is called in another way there")
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
        block = _indented(item, outer + _unit(text), _unit(text)).lstrip()
        return f"{text[: source.start(held) + 1]}\n{outer}{_unit(text)}{block},\n{outer}{text[source.end(held) - 1 :]}"
    first = held.keys[0] or held.values[0]
    indent = source.indent(source.start(first))
    block = _indented(item, indent or "", _unit(text)).lstrip()
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


def _change_value(text: str, change: Change) -> str:
    found, _ = _holder_of(text, change.path)
    if found is None:
        raise NotCarried(0, f"{_told(change.path)} is not there any more")
    node = (_value(found) or found) if isinstance(found, ast.stmt) and not isinstance(found, _HOLDERS) else found
    assert isinstance(node, ast.stmt | ast.expr)
    now = ast.unparse(node)
    wanted = ast.unparse(ast.parse(change.source).body[0])
    if now == wanted or ast.unparse(found) == wanted:
        return text
    if change.old not in (now, ast.unparse(found)):
        raise NotCarried(node.lineno, f"{_told(change.path)} was changed by hand")
    source = Text(text)
    if isinstance(node, ast.expr):
        return text[: source.start(node)] + change.source + text[source.end(node) :]
    start = source.starts[_first_line(node) - 1]
    indent = source.indent(source.start(node)) or ""
    return text[:start] + _indented(change.source, indent, _unit(text)) + text[source.end(node) :]


def _take_away(text: str, change: Change) -> str:
    holder, _ = _holder_of(text, change.path)
    if isinstance(holder, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
        node = dict(_keyed(holder)).get(change.key)
        if node is None:
            return text
        if ast.unparse(node) != change.old:
            raise NotCarried(node.lineno, f"{_told((*change.path, change.key))} was changed by hand")
        source = Text(text)
        start = source.starts[_first_line(node) - 1]
        return text[:start].rstrip("\n") + "\n" + text[source.line_end(source.end(node)) :]
    held = _value(holder) if isinstance(holder, ast.stmt) else holder
    items = _items(held) if isinstance(held, ast.expr) else None
    keys = [key for key, _ in items or []]
    if change.key in keys and isinstance(held, Sequenced):
        return remove_item(text, held, keys.index(change.key))
    if change.key in keys and isinstance(held, ast.Call) and change.key[1].endswith("="):
        value = dict(items or [])[change.key]
        if ast.unparse(value) != change.old:
            raise NotCarried(value.lineno, f"{_told((*change.path, change.key))} was changed by hand")
        source = Text(text)
        found = re.search(rf",\s*{re.escape(change.key[1])}\s*\Z", text[: source.start(value)])
        if found:
            return text[: found.start()] + text[source.end(value) :]
        raise NotCarried(value.lineno, f"{_told((*change.path, change.key))} cannot be taken out")
    return text


def _held_value(text: str, change: Change) -> ast.expr:
    found, _ = _holder_of(text, change.path)
    held = _value(found) if isinstance(found, ast.stmt) else found
    if not isinstance(held, ast.expr):
        raise NotCarried(0, f"{_told(change.path)} is not there any more")
    return held


def _indent(source: Text, holder: Holder) -> str:
    if isinstance(holder, ast.Module):
        return ""
    first = holder.body[0]
    return source.indent(
        source.starts[_first_line(first) - 1] + len(_leading(source.lines[_first_line(first) - 1]))
    ) or ((source.indent(source.start(holder)) or "") + _unit(source.text))


def _leading(line: str) -> str:
    return line[: len(line) - len(line.lstrip())]


def _unit(text: str) -> str:
    """Return the indentation of one level in a text."""
    found = re.search(r":[ \t]*(?:#.*)?\n([ \t]+)\S", text)
    return "\t" if found and found.group(1).startswith("\t") else "    "


def _indented(source: str, indent: str, unit: str) -> str:
    """Indent a source for its place, with the unit of the file."""
    result = []
    for number, line in enumerate(source.split("\n")):
        depth = len(line) - len(line.lstrip(" "))
        inner = unit * (depth // 4) + " " * (depth % 4) if unit != "    " else " " * depth
        result.append((indent if line.strip() or not number else "") + inner + line[depth:] if line.strip() else "")
    return "\n".join(result)


def _told(path: Sequence[Key]) -> str:
    return ".".join(key for _, key in path if key) or "the file"


_APPLY = {
    "import": _add_import,
    "statement": _add_statement,
    "item": _add_item,
    "value": _change_value,
    "gone": _take_away,
}
