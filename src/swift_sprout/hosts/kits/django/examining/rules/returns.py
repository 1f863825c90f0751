"""Served, from the files: functions whose answer the host needs, and that give none."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

from ......core.findings import Finding
from ...reading.code import spelled
from ..examination import Examination

#  methods of controllers whose answer is used (Django 5.2)
_METHODS = [
    "dispatch",
    "get",
    "post",
    "put",
    "patch",
    "delete",
    "form_valid",
    "form_invalid",
    "render_to_response",
    "get_queryset",
    "get_object",
    "get_context_data",
    "get_form",
    "get_form_class",
    "get_form_kwargs",
    "get_initial",
    "get_success_url",
    "get_template_names",
    "has_permission",
    "test_func",
]
_Function = ast.FunctionDef | ast.AsyncFunctionDef


def nothing(exam: Examination) -> Iterator[Finding]:
    """Controllers and context processors of the module that end without a value."""
    told: set[tuple[Path, int]] = set()
    for path, function, name in _needed(exam):
        place = (path, function.lineno)
        if place not in told and gives_nothing(function):
            told.add(place)
            yield exam.find("served.returns-nothing", path, function.lineno, view=name)


def gives_nothing(function: _Function) -> bool:
    """True for a function with statements of its own that ends, and never returns a value, raises, or yields."""
    body = function.body[1:] if ast.get_docstring(function) is not None else function.body
    if all(isinstance(node, ast.Pass) or _is_ellipsis(node) for node in body):
        return False
    return not any(
        (isinstance(node, ast.While) and isinstance(node.test, ast.Constant))
        or isinstance(node, ast.Raise | ast.Yield | ast.YieldFrom)
        or (isinstance(node, ast.Return) and node.value)
        for statement in body
        for node in _own_nodes(statement)
    )


def _is_ellipsis(node: ast.stmt) -> bool:
    return isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and node.value.value is ...


def _own_nodes(node: ast.AST) -> Iterator[ast.AST]:
    """Yield a node and those below it, but for those of functions inside it: what they return is theirs."""
    yield node
    if not isinstance(node, _Function | ast.Lambda | ast.ClassDef):
        for below in ast.iter_child_nodes(node):
            yield from _own_nodes(below)


def _needed(exam: Examination) -> Iterator[tuple[Path, _Function, str]]:
    own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    views = dict.fromkeys(route.view for route in own.routes if exam.owns(route.view)) if own is not None else {}
    for view in [*views, *_context_processors(exam)]:
        found = exam.view.project.defining(view)
        if found is None:
            continue
        path, node = found
        name = view.rpartition(".")[2]
        if isinstance(node, _Function) and not node.decorator_list:
            yield path, node, name
        if not isinstance(node, ast.ClassDef):
            continue
        if not any(spelled(base).endswith(("View", "Mixin")) for base in node.bases):
            continue
        for method in node.body:
            if isinstance(method, _Function) and method.name in _METHODS and not method.decorator_list:
                yield path, method, f"{name}.{method.name}"


def _context_processors(exam: Examination) -> list[str]:
    engines = exam.view.settings.plain("TEMPLATES", []) if exam.view.settings is not None else []
    found: list[str] = []
    for engine in engines if isinstance(engines, list) else []:
        options = engine.get("OPTIONS") if isinstance(engine, dict) else None
        names = options.get("context_processors") if isinstance(options, dict) else None
        found += [name for name in names or () if isinstance(name, str) and exam.owns(name)]
    return found


STATIC = (nothing,)
