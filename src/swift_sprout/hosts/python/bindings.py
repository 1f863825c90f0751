"""The names that a Python file binds, so that another file can import them: a superset, for nothing is run."""

from __future__ import annotations

import ast
import re
from functools import lru_cache
from pathlib import Path

from ...core.syntax import nodes_below

#  what may bind names that no reading sees
_DYNAMIC = ("__getattr__", "globals", "setattr", "exec", "vars", "__import__", "import_module")


@lru_cache(maxsize=4_000)
def names_bound(tree: ast.Module) -> set[str] | None:
    """Return every name that a file binds anywhere in it; None where it may bind others as it runs."""
    found: set[str] = set()
    for node in nodes_below(tree):
        if isinstance(node, ast.Name):
            if node.id in _DYNAMIC:
                return None
            if isinstance(node.ctx, ast.Store):
                found.add(node.id)
        elif isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
            if node.name in _DYNAMIC:
                return None
            found.add(node.name)
        elif isinstance(node, ast.alias):
            if node.name == "*":
                return None
            found.add(node.asname or node.name.partition(".")[0])
    return found


def late_nodes(tree: ast.AST) -> set[int]:
    """Return the ids of the nodes that are evaluated when a function is called, not as the file is loaded."""
    bodies: list[ast.AST] = []
    for node in nodes_below(tree):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            bodies += node.body
        elif isinstance(node, ast.Lambda):
            bodies.append(node.body)
    return {id(inner) for body in bodies for inner in nodes_below(body)}


@lru_cache(maxsize=4_000)
def is_absent_from(package_file: Path, name: str) -> bool:
    """True when an installed file cannot bind a name: the word is not in it, and it takes in nothing by ``*``.

    It is read as text, which is a hundred times faster than parsing it; False where that leaves a doubt.
    """
    try:
        text = package_file.read_text("utf-8")
    except (OSError, UnicodeDecodeError):
        return False
    if re.search(r"import \*|^def __getattr__|globals\(\)", text, re.MULTILINE):
        return False
    return re.search(rf"\b{re.escape(name)}\b", text) is None
