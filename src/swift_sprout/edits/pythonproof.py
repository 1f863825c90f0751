"""Proof of a carried change: what a person wrote, and the change does not name, stands in the result as it stood."""

from __future__ import annotations

import ast
from collections import Counter

from .carrying import NotCarried

_IMPORTS = (ast.Import, ast.ImportFrom)
_HOLDERS = (ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef)


def prove_carried(current: str, result: str, before: str, after: str) -> None:
    """Raise NotCarried, naming the line, where a statement changed that is the same before and after the change."""
    here, now, old, new = (ast.parse(text) for text in (current, result, before, after))
    _prove(here.body, now.body, old.body, new.body)


def _prove(here: list[ast.stmt], now: list[ast.stmt], old: list[ast.stmt], new: list[ast.stmt]) -> None:
    """Compare two bodies: statements that are lost must be ones that the change names, and so must those that came."""
    here, now = _code(here), _code(now)
    kept, standing = Counter(map(ast.dump, now)), Counter(map(ast.dump, here))
    meant = Counter(map(ast.dump, _code(old))) - Counter(map(ast.dump, _code(new)))
    brought = Counter(map(ast.dump, _code(new))) - Counter(map(ast.dump, _code(old)))
    named = {_name(node) for node in (*_code(old), *_code(new)) if ast.dump(node) in meant or ast.dump(node) in brought}
    for node in here:
        text = ast.dump(node)
        if kept[text]:
            kept[text] -= 1
            continue
        name = _name(node)
        if text in meant or isinstance(node, ast.Pass):
            continue
        if not name or name not in named:
            raise NotCarried(node.lineno, "what a person wrote there would change as well")
        if isinstance(node, _HOLDERS):
            others = [_holder(body, name) for body in (now, old, new)]
            _prove(node.body, *(one.body if one is not None else [] for one in others))
    for node in now:
        text = ast.dump(node)
        if standing[text]:
            standing[text] -= 1
        elif text not in brought and not isinstance(node, ast.Pass) and (not _name(node) or _name(node) not in named):
            raise NotCarried(node.lineno, "more than the change would be added there")


def _code(body: list[ast.stmt]) -> list[ast.stmt]:
    """Leave out imports: names are added to them one by one, and the file must still parse."""
    return [node for node in body if not isinstance(node, _IMPORTS)]


def _name(node: ast.stmt) -> str:
    """Return what a statement defines or assigns; for others what tells them apart, empty for nothing of the sort."""
    if isinstance(node, _HOLDERS):
        return node.name
    if isinstance(node, ast.Assign) and len(node.targets) == 1:
        return ast.unparse(node.targets[0])
    if isinstance(node, ast.AnnAssign | ast.AugAssign):
        return ast.unparse(node.target)
    if isinstance(node, ast.Return):
        return "return"
    if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
        return "docstring"
    if isinstance(node, ast.Expr) and isinstance(node.value, ast.Call):
        return "call " + ast.unparse(node.value.func)
    return ""


def _holder(body: list[ast.stmt], name: str) -> ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef | None:
    return next((node for node in body if isinstance(node, _HOLDERS) and node.name == name), None)
