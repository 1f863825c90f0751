"""Imports: those that added code needs, and one more in a file that a person edits."""

from __future__ import annotations

import ast
from collections.abc import Iterator

from ..carrying import NotCarried
from ..python import Text, extend_import
from .keys import Change, Holder, Key, holder_of, key_of, keyed, path_text
from .layout import gap_above, gap_below, indent_of, indented, put_above, put_below, unit_of


def imports_of_added(changes: list[Change], after: Text, text: str) -> Iterator[Change]:
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
        key = key_of(node, 1)
        for alias in node.names:
            name = (alias.asname or alias.name).partition(".")[0]
            if name not in used:
                continue
            if name in bound:
                origin, line = bound[name]
                if origin and origin != (key[1], alias.name):
                    raise NotCarried(line, f"{name} stands for something else there than added code needs")
                continue
            beside = tuple(key_of(other, 1) for other in reversed(nodes[:index]))
            behind = tuple(key_of(other, 1) for other in nodes[index + 1 :])
            lone = ast.ImportFrom(node.module, [alias], node.level) if isinstance(node, ast.ImportFrom) else node
            gap, below = gap_above(after, node), gap_below(after, node)
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
                module = key_of(node, 1)[1] if isinstance(node, ast.ImportFrom) else f"import {alias.name}"
                found[(alias.asname or alias.name).partition(".")[0]] = ((module, alias.name), node.lineno)
        else:
            key = key_of(node, number)
            if key[0] in ("definition", "name"):
                found[key[1]] = (None, node.lineno)
    return found


def add_import(text: str, change: Change) -> str:
    """Return a source with one more import, or one that is there extended by its names."""
    wanted = ast.parse(change.source).body[0]
    assert isinstance(wanted, ast.Import | ast.ImportFrom)
    holder, _ = holder_of(text, change.path)
    if not isinstance(holder, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
        raise NotCarried(0, f"{path_text(change.path)} is not there any more")
    known = {
        (key_of(node, 1)[1], alias.asname or alias.name)
        for node in holder.body
        if isinstance(node, ast.Import | ast.ImportFrom)
        for alias in node.names
    }
    missing = [alias for alias in wanted.names if (change.key[1], alias.asname or alias.name) not in known]
    same = [node for node in holder.body if key_of(node, 1) == change.key and isinstance(node, ast.ImportFrom)]
    if missing and same and same[0].names[0].name != "*":
        for alias in missing:
            fresh, _ = holder_of(text, change.path)
            assert isinstance(fresh, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef)
            node = next(one for one in fresh.body if key_of(one, 1) == change.key)
            assert isinstance(node, ast.ImportFrom)
            text = extend_import(text, node, alias.name)
        return text
    if not missing or (same and same[0].names[0].name == "*"):
        return text
    return _new_import(text, change, holder)


def _new_import(text: str, change: Change, holder: Holder) -> str:
    source = Text(text)
    there = {key: node for key, node in keyed(holder) if key[0] in ("import", "docstring")}
    block = indented(change.source, indent_of(source, holder), unit_of(text))
    for key in change.beside[0]:
        if key in there:
            last = [node for node in holder.body if key_of(node, holder.body.index(node)) == key][-1]
            position = holder.body.index(last) + 1
            behind = holder.body[position] if position < len(holder.body) else None
            if isinstance(behind, ast.Import | ast.ImportFrom) and _same_group(change.key, key_of(behind, position)):
                if not _same_group(change.key, key):
                    at = source.line_start(source.start(behind))
                    return text[:at] + block + "\n" + text[at:]
            return put_below(text, source, last, block, min(change.gap, 1))
    for key in change.beside[1]:
        if key in there:
            at = source.line_start(source.start(there[key]))  # below a head of comments
            next_one = key == change.beside[1][0]
            gap = min(change.below, 1) if next_one else int(not _same_group(change.key, key))
            return text[:at] + block + "\n" + "\n" * gap + text[at:]
    others = [node for key, node in keyed(holder) if key[0] == "import"]
    alike = [node for node in others if _same_group(change.key, key_of(node, 1))]
    if alike and change.key < key_of(alike[0], 1):
        at = source.line_start(source.start(alike[0]))
        return text[:at] + block + "\n" + text[at:]
    if others:
        return put_below(text, source, (alike or others)[-1], block, 0 if alike else 1)
    first = next((node for node in holder.body if not isinstance(node, ast.Pass)), None)
    if first is None:
        return text + block + "\n"
    if key_of(first, 0)[0] == "docstring":
        return put_below(text, source, first, block, 1)
    return put_above(text, source, first, block, 2 if isinstance(holder, ast.Module) else 0)


def _same_group(left: Key, right: Key) -> bool:
    """True when two imports are both of the own package, or both are not."""
    return left[1].startswith(".") == right[1].startswith(".")
