"""Carrying the difference between two Python sources into a third, by their syntax trees.

The two sources were generated from one template, so their difference is made of a few sorts of change: imports,
statements in a body, items of a list or dictionary, and values. Each is applied on its own to the third source, which
is parsed again every time; what a person wrote there is only touched where the value that was generated still stands.
All texts have plain line ends.
"""

from __future__ import annotations

import ast

from ..python import Text
from .differences import differences
from .imports import add_import, imports_of_added
from .items import add_item
from .statements import add_statement, change_value, take_away

__all__ = ["carry_python"]

_APPLY = {
    "import": add_import,
    "statement": add_statement,
    "item": add_item,
    "value": change_value,
    "gone": take_away,
}


def carry_python(current: str, before: str, after: str) -> str:
    """Return ``current`` with the difference between the other two; raises SyntaxError and NotCarried."""
    ast.parse(current)
    changes = list(differences((), ast.parse(before), ast.parse(after), Text(after)))
    text = current
    for change in changes:
        text = _APPLY[change.sort](text, change)
    for change in imports_of_added(changes, Text(after), text):
        text = add_import(text, change)
    ast.parse(text)
    return text
