"""Statuses of orders that code names: those that the settings' pipeline has."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from .....core.nearest import said_near
from ...django.reading.code import nodes_of
from .setup import misspelt_status

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination

PIPELINE = "OSCAR_ORDER_STATUS_PIPELINE"


def compared(exam: Examination) -> Iterator[Finding]:
    """Statuses that code compares an order's with, or sets, and that are nearly one of the pipeline."""
    held = exam.view.settings.get(PIPELINE) if exam.view.settings is not None else None
    lines = exam.view.settings.plain("OSCAR_LINE_STATUS_PIPELINE", {}) if exam.view.settings is not None else {}
    if held is None or not held.sure or not isinstance(held.plain, dict) or not held.plain:
        return
    statuses = {str(one) for one in (*held.plain, *(lines if isinstance(lines, dict) else ()))}
    for source in exam.sources:
        for node in nodes_of(source.tree) if source.tree is not None and source.mentions("status") else ():
            for status, line in _named(node):
                meant = misspelt_status(status, statuses)
                if meant is not None:
                    values = {"status": status, "near": said_near(meant), "key": PIPELINE}
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
