"""Served, from the files: functions whose answer the host needs, and that give none."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

from ......core.findings import Finding
from .....python.returning import Function, gives_nothing
from ...reading.code import spelled
from ...reading.engines import template_engines
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


def nothing(exam: Examination) -> Iterator[Finding]:
    """Controllers and context processors of the module that end without a value."""
    told: set[tuple[Path, int]] = set()
    for path, function, name in _needed(exam):
        place = (path, function.lineno)
        if place not in told and gives_nothing(function):
            told.add(place)
            yield exam.find("served.returns-nothing", path, function.lineno, view=name)


def _needed(exam: Examination) -> Iterator[tuple[Path, Function, str]]:
    own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    views = dict.fromkeys(route.view for route in own.routes if exam.owns(route.view)) if own is not None else {}
    for view in [*views, *_context_processors(exam)]:
        found = exam.view.project.defining(view)
        if found is None:
            continue
        path, node = found
        name = view.rpartition(".")[2]
        if isinstance(node, Function) and not node.decorator_list:
            yield path, node, name
        if not isinstance(node, ast.ClassDef):
            continue
        if not any(spelled(base).endswith(("View", "Mixin")) for base in node.bases):
            continue
        for method in node.body:
            if isinstance(method, Function) and method.name in _METHODS and not method.decorator_list:
                yield path, method, f"{name}.{method.name}"


def _context_processors(exam: Examination) -> list[str]:
    engines = template_engines(exam.view.settings)
    return [name for engine in engines for name in engine.context_processors or () if exam.owns(name)]


STATIC = (nothing,)
