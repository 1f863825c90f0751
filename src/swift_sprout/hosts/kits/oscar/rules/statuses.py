"""Statuses of orders that code names: those that the settings' pipeline has."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from .....core.nearest import said_near
from ...django.reading.code import nodes_of
from .setup import PIPELINES, misspelt_status

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination


def compared(exam: Examination) -> Iterator[Finding]:
    """Statuses that code compares an order's with, or sets, and that are nearly one of the pipeline."""
    said = [exam.view.settings.get(key) for key in PIPELINES] if exam.view.settings is not None else []
    if (
        not said
        or said[0] is None
        or not all(one is None or (one.sure and isinstance(one.plain, dict)) for one in said)
    ):
        return
    statuses = {str(status) for one in said if one is not None for status in one.plain}
    for source in exam.sources:
        for node in nodes_of(source.tree) if source.tree is not None and source.mentions("status") else ():
            for status, line in _named(node):
                meant = misspelt_status(status, statuses)
                if meant is not None:
                    values = {"status": status, "near": said_near(meant), "key": next(iter(PIPELINES))}
                    yield exam.find("placed.status-unknown", source.path, line, **values)


def _named(node: ast.AST) -> Iterator[tuple[str, int]]:
    """Yield the texts that a comparison or a call names as the status of an order."""
    if isinstance(node, ast.Compare) and ast.unparse(node.left).endswith(("new_status", "order.status")):
        for value in node.comparators:
            for one in value.elts if isinstance(value, ast.Tuple | ast.List | ast.Set) else (value,):
                if isinstance(one, ast.Constant) and isinstance(one.value, str):
                    yield one.value, one.lineno
    elif isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.args:
        last = node.args[-1]
        to_order = node.func.attr == "handle_order_status_change" or ast.unparse(node.func).endswith("order.set_status")
        if to_order and isinstance(last, ast.Constant) and isinstance(last.value, str):
            yield last.value, last.lineno


RULES = (compared,)
