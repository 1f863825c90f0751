"""Texts with marks for values, and the values that code gives them (PHP 8, the host's reference 6.1)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.plurals import number_of
from ...reading.syntax import arguments, line_of, literal, parsed, text_of, walk

if TYPE_CHECKING:
    from tree_sitter import Node

    from ......core.findings import Finding
    from ..examination import Examination

#  a mark: the number of its value where it says one, and its kind
_MARK = re.compile(r"%(?:(\d+)\$)?[-+0 ]*(?:'.)?[-+0]*\d*(?:\.\d+)?([bcdeEfFgGhHosuxX%])")
_PREPARED = re.compile(r"%(?:(\d+)\$)?\d*(?:\.\d+)?([dsFfi%])")
_TRANSLATES = ("__", "esc_html__", "esc_attr__", "_x", "esc_html_x", "esc_attr_x")


def formats(exam: Examination) -> Iterator[Finding]:
    """Texts that ask for more values than they are given: PHP stops there."""
    for file, call in exam.calls("sprintf", "printf"):
        said = _said(call.nodes[0]) if call.nodes else None
        if said is None or any(text_of(one.parent).startswith("...") for one in call.nodes):
            continue
        wanted, given = _wanted(_MARK, said), len(call.nodes) - 1
        if wanted > given:
            yield exam.find(
                "served.format-arguments",
                file.path,
                call.line,
                what=call.name,
                wanted=number_of(wanted, "value"),
                given=given,
            )


def prepared(exam: Examination) -> Iterator[Finding]:
    """Statements that are prepared with fewer values than they have marks for: the database gets nothing."""
    for file in exam.module.files_saying(("prepare",)):
        for node in walk(parsed(file.content).root_node):
            if node.type != "member_call_expression" or text_of(node.child_by_field_name("name")) != "prepare":
                continue
            given = arguments(node)
            if not given or text_of(node.child_by_field_name("object")) != "$wpdb" or _spreads(node):
                continue
            values = given[1:]
            if len(values) == 1 and values[0].type not in ("integer", "string", "cast_expression"):
                continue  # it may hold all of them
            marks = _wanted(_PREPARED, _fixed(given[0]))
            if given[0].type in ("string", "encapsed_string") and marks > len(values):
                yield exam.find(
                    "installed.statement-values",
                    file.path,
                    line_of(node),
                    wanted=number_of(marks, "value"),
                    given=len(values),
                )


def _is_call(node: Node) -> bool:
    return node.type == "function_call_expression"


def _said(node: Node) -> str | None:
    """Return the text of a format, also of one that is translated."""
    if _is_call(node) and text_of(node.child_by_field_name("function")) in _TRANSLATES:
        inner = arguments(node)
        node = inner[0] if inner else node
    said = literal(node)
    return said if isinstance(said, str) else None


def _fixed(node: Node) -> str:
    """Return what a text holds beside the values that are put into it."""
    if node.type == "encapsed_string":
        return "".join(text_of(one) for one in node.children if one.type in ("string_content", "escape_sequence"))
    return str(literal(node) or "")


def _wanted(marks: re.Pattern[str], text: str) -> int:
    """Return how many values a text asks for: by the highest number, or by how many marks it has."""
    found = [one for one in marks.finditer(text) if one[2] != "%"]
    numbered = [int(one[1]) for one in found if one[1]]
    return max([*numbered, sum(1 for one in found if not one[1])], default=0)


def _spreads(node: Node) -> bool:
    return "..." in text_of(node.child_by_field_name("arguments"))
