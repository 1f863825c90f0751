"""Whether a function gives its caller a value, as its text tells it."""

from __future__ import annotations

import ast
from collections.abc import Iterator

Function = ast.FunctionDef | ast.AsyncFunctionDef


def gives_nothing(function: Function, may_raise: bool = False) -> bool:
    """True for a function with statements of its own that ends, and never returns a value, raises, or yields.

    may_raise -- it may raise as well, but not as the last thing that it does
    """
    body = function.body[1:] if ast.get_docstring(function) is not None else function.body
    if all(isinstance(node, ast.Pass) or _is_ellipsis(node) for node in body):
        return False
    if may_raise and isinstance(body[-1], ast.Raise):
        return False
    return not any(
        (isinstance(node, ast.While) and isinstance(node.test, ast.Constant))
        or isinstance(node, ast.Yield | ast.YieldFrom)
        or (isinstance(node, ast.Raise) and not may_raise)
        or (isinstance(node, ast.Return) and node.value)
        for statement in body
        for node in _own_nodes(statement)
    )


def _is_ellipsis(node: ast.stmt) -> bool:
    return isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and node.value.value is ...


def _own_nodes(node: ast.AST) -> Iterator[ast.AST]:
    """Yield a node and those below it, but for those of functions inside it: what they return is theirs."""
    yield node
    if not isinstance(node, Function | ast.Lambda | ast.ClassDef):
        for below in ast.iter_child_nodes(node):
            yield from _own_nodes(below)
