"""What people read of records and fields, where models spell it otherwise than we do now."""

from __future__ import annotations

import ast
from collections.abc import Iterable

from ....shared.rendering import python_text
from ..reading.parts.values import meta_text, text_of
from .shared import Values

_NAMES = ("verbose_name", "verbose_name_plural")


def as_labelled(tables: Iterable[Values], models: bytes) -> None:
    """Give tables the labels that models have: a migration must fit those, also where they differ in capitals alone."""
    try:
        tree = ast.parse(models)
    except SyntaxError:
        return  # an unresolved merge conflict, which stops every migration until it is resolved
    classes = {node.name: node for node in tree.body if isinstance(node, ast.ClassDef)}
    for table in tables:
        node = classes.get(table["record"])
        if node is None:
            continue
        for key in _NAMES:
            _take(table["options"], key, python_text(meta_text(node, key)))
        for field in table["fields"]:
            _take(field, "migration", f"verbose_name={python_text(_label(node, field['name']))}")


def _take(values: Values, key: str, spelled: str) -> None:
    """Put what is written into a value, where nothing but capitals differs."""
    said = values.get(key, "")
    at = said.lower().find(spelled.lower())
    if at >= 0:
        values[key] = said[:at] + spelled + said[at + len(spelled) :]


def _label(node: ast.ClassDef, name: str) -> str:
    """Return the label of a model's field: by its name, or the first of what it is called with."""
    for one in node.body:
        if isinstance(one, ast.Assign) and isinstance(one.targets[0], ast.Name) and one.targets[0].id == name:
            if isinstance(one.value, ast.Call):
                named = [word.value for word in one.value.keywords if word.arg == "verbose_name"]
                return text_of(next(iter([*named, *one.value.args]), None))
    return ""
