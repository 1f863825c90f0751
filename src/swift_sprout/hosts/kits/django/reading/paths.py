"""Paths that settings and entry scripts work out from their own place."""

from __future__ import annotations

import ast
import os
from pathlib import Path
from typing import Any


def path_value(node: ast.expr, file: Path, known: dict[str, Any]) -> str | None:
    """Work out an expression that makes a path from the file's own place; None when it is something else."""
    if isinstance(node, ast.Constant):
        return node.value if isinstance(node.value, str) else None
    if isinstance(node, ast.Name):
        if node.id == "__file__":
            return str(file)
        held = known.get(node.id)
        return str(held) if isinstance(held, str | Path) else None
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Div):
        left, right = path_value(node.left, file, known), path_value(node.right, file, known)
        return None if left is None or right is None else str(Path(left) / right)
    if isinstance(node, ast.Attribute) and node.attr == "parent":
        inner = path_value(node.value, file, known)
        return None if inner is None else str(Path(inner).parent)
    if isinstance(node, ast.Subscript) and isinstance(node.value, ast.Attribute) and node.value.attr == "parents":
        inner = path_value(node.value.value, file, known)
        index = node.slice.value if isinstance(node.slice, ast.Constant) else None
        return str(Path(inner).parents[index]) if inner is not None and isinstance(index, int) else None
    if isinstance(node, ast.Call):
        return _path_call(node, file, known)
    return None


def glob_values(node: ast.expr, file: Path, known: dict[str, Any]) -> list[str] | None:
    """Return the paths that a pattern below a folder finds now, in their order; None for another expression."""
    if not (isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and len(node.args) == 1):
        return None
    said = node.args[0]
    if node.func.attr != "glob" or not isinstance(said, ast.Constant) or not isinstance(said.value, str):
        return None
    folder = path_value(node.func.value, file, known)
    if folder is None or said.value.startswith("/"):
        return None
    return sorted(map(str, Path(folder).glob(said.value)))


_FROM_ENVIRONMENT = ("os.environ.get", "environ.get", "os.getenv", "getenv")


def _path_call(node: ast.Call, file: Path, known: dict[str, Any]) -> str | None:
    name = ast.unparse(node.func)
    values = [path_value(argument, file, known) for argument in node.args]
    if isinstance(node.func, ast.Attribute) and node.func.attr in ("resolve", "absolute", "as_posix"):
        return path_value(node.func.value, file, known)
    if isinstance(node.func, ast.Attribute) and node.func.attr == "joinpath":
        values.insert(0, path_value(node.func.value, file, known))
        name = "join"
    if name in _FROM_ENVIRONMENT and values and values[0] is not None:
        return os.environ.get(values[0], values[1] if len(values) > 1 else None)
    if not values or any(value is None for value in values):
        return None
    texts = [value for value in values if value is not None]
    last = name.rsplit(".", 1)[-1]
    if last in ("Path", "PurePath", "join"):
        return str(Path(*texts))
    if last in ("abspath", "realpath", "str", "normpath", "fspath"):
        return str(Path(texts[0]).resolve()) if last != "str" else texts[0]
    if last == "dirname":
        return str(Path(texts[0]).parent)
    return None
