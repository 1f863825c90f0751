"""Tables of text formats as typed sections: a named tuple says which keys a table has, and of what type each is.

Types of fields: ``str``, ``int``, ``bool``, a ``Literal`` of texts, ``tuple[T, ...]`` for lists, ``Mapping[str, T]``
for tables with keys of their own, and further named tuples. A field with a default may be left out.
"""

from __future__ import annotations

import types
from collections.abc import Mapping
from functools import cache
from typing import Any, Literal, TypeVar, Union, get_args, get_origin, get_type_hints

from .nearest import did_you_mean

Section = TypeVar("Section")
_PLAIN = {str: "text", int: "a whole number", bool: "true or false"}


class TableWrong(Exception):
    """A table does not fit its type: where, and what is wrong there.

    key -- the dotted key; reason -- a clause on it; remedy -- a sentence, with the nearest key where there is one
    """

    def __init__(self, key: str, reason: str, remedy: str) -> None:
        super().__init__(f"{key}: {reason}")
        self.key = key
        self.reason = reason
        self.remedy = remedy


def section_from(section: type[Section], table: dict[str, Any], key: str = "") -> Section:
    """Return a table as a section; raises TableWrong for an unknown or missing key, or a value of another type."""
    found: Section = _value(section, table, key)
    return found


@cache
def fields_of(section: type) -> dict[str, Any]:
    """Return the types of a section's fields, by their keys."""
    return get_type_hints(section)


def _value(wanted: Any, value: Any, key: str) -> Any:
    if wanted in _PLAIN:
        if type(value) is not wanted:
            raise TableWrong(key, f"{_spelled(value)} is not {_PLAIN[wanted]}", f"Write {_PLAIN[wanted]}.")
        return value
    origin, inner = get_origin(wanted), get_args(wanted)
    if origin is Literal:
        if value not in inner:
            reason = f"{_spelled(value)} is not one of {', '.join(inner)}"
            raise TableWrong(key, reason, did_you_mean(str(value), inner))
        return value
    if origin is tuple:
        if not isinstance(value, list):
            raise TableWrong(key, f"{_spelled(value)} is not a list", "Write a list.")
        return tuple(_value(inner[0], one, f"{key}[{number}]") for number, one in enumerate(value))
    if origin in (Union, types.UnionType):  # a section that may be absent
        return _value(next(one for one in inner if one is not type(None)), value, key)
    if not isinstance(value, dict):
        raise TableWrong(key, f"{_spelled(value)} is not a table", "Write a table.")
    if origin is Mapping:
        return {name: _value(inner[1], one, _below(key, name)) for name, one in value.items()}
    return _section(wanted, value, key)


def _section(section: Any, table: dict[str, Any], key: str) -> Any:
    known = fields_of(section)
    for name in table:
        if name not in known:
            raise TableWrong(_below(key, name), "unknown key", did_you_mean(name, known))
    for name in known:
        if name not in table and name not in section._field_defaults:
            raise TableWrong(_below(key, name), "missing key", "Add it.")
    return section(**{name: _value(known[name], value, _below(key, name)) for name, value in table.items()})


def _below(key: str, name: str) -> str:
    return f"{key}.{name}" if key else name


def _spelled(value: Any) -> str:
    if isinstance(value, str | int | float):
        return repr(value)
    return "a list" if isinstance(value, list) else "a table"
