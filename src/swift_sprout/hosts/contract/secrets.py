"""The values of secrets that the files of a host's settings write out."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterable, Iterator
from pathlib import Path

from ...core.masking import SHORTEST, in_addresses, is_secret, secrets_in

_HARMLESS = re.compile(r"[A-Za-z_]\w*(?:\.\w+)+|/[\w/.-]*|[A-Z_]+|\d{1,8}")  # names of classes and of settings, paths


def secrets_in_files(paths: Iterable[Path]) -> set[str]:
    """Return the values in some files; one that cannot be read has none."""
    found: set[str] = set()
    for path in paths:
        try:
            text = path.read_text("utf-8", "replace")
        except OSError:
            continue
        found |= secrets_in(text)
        if path.suffix == ".py":
            found |= secrets_in_code(text)
    return found


def secrets_in_code(text: str) -> set[str]:
    """Return the values that Python source gives to names of secrets, in whatever form they are written out there.

    Read are values of assignments, with and without a type, of named arguments and of dictionaries: plain, in three
    quotes, as bytes, in parts of formatted texts, and in lists. Source that does not parse is read as other text is.
    """
    try:
        tree = ast.parse(text)
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return secrets_in(text)
    found = {
        one.decode("utf-8", "replace") if isinstance(one, bytes) else one
        for value in _values_of_secrets(tree)
        for one in (getattr(node, "value", None) for node in ast.walk(value) if isinstance(node, ast.Constant))
        if isinstance(one, str | bytes)
    }
    addresses = "\n".join(
        node.value for node in ast.walk(tree) if isinstance(node, ast.Constant) and isinstance(node.value, str)
    )
    found |= in_addresses(addresses)
    return {value for value in found if len(value) >= SHORTEST and not _HARMLESS.fullmatch(value)}


def _values_of_secrets(tree: ast.AST) -> Iterator[ast.expr]:
    for node in ast.walk(tree):
        if isinstance(node, ast.Assign):
            names = [_name_of(target) for target in node.targets]
            pairs = [(name, node.value) for name in names]
        elif isinstance(node, ast.AnnAssign | ast.AugAssign) and node.value is not None:
            pairs = [(_name_of(node.target), node.value)]
        elif isinstance(node, ast.keyword):
            pairs = [(node.arg or "", node.value)]
        elif isinstance(node, ast.Dict):
            pairs = [(_name_of(key), value) for key, value in zip(node.keys, node.values, strict=True) if key]
        else:
            continue
        yield from (value for name, value in pairs if is_secret(name))


def _name_of(node: ast.expr) -> str:
    """Return the name under which a value is kept; empty where it has none."""
    if isinstance(node, ast.Name):
        return node.id
    if isinstance(node, ast.Attribute):
        return node.attr
    if isinstance(node, ast.Subscript):
        return _name_of(node.slice)
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""
