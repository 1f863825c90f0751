"""What the files of this folder share: rights closed over groups, and small spellings of code."""

from __future__ import annotations

from typing import Any

from .....core.brief import Brief
from .....core.parts.pages import needed_right
from .....core.parts.records import Record
from .....core.parts.rights import Group, Permission, same_name
from .....core.rights import closed

Values = dict[str, Any]
MODES = {"read": "read", "create": "create", "change": "write", "delete": "delete"}


def lines(texts: list[str]) -> list[dict[str, str]]:
    """Return texts as what a template repeats for each line."""
    return [{"line": text} for text in texts]


def model_name(brief: Brief, record: Record) -> str:
    """Return the host's name of a record of the brief."""
    return f"{brief.name.snake}.{record.name.snake}"


def rights_of(brief: Brief) -> dict[str, frozenset[tuple[str, str]]]:
    """Return the rights of each group by its key: pairs of record title and verb, or a permission's key and nothing."""
    own: dict[str, list[tuple[str, str]]] = {}
    includes: dict[str, list[str]] = {}
    for group in brief.groups:
        rights = [(brief.record(name), verb) for name, verbs in group.may for verb in verbs]
        own[group.key] = [(record.name.title, verb) for record, verb in rights if record is not None]
        own[group.key] += [(one.key, "") for one in brief.permissions for name in group.also if _same(one, name)]
        includes[group.key] = [one.key for one in brief.groups for name in group.includes if _same(one, name)]
    return {key: closed(own, includes, key) for key in own}


def _same(part: Permission | Group, name: str) -> bool:
    return same_name(part.name.title, name)


def holders_of(brief: Brief, what: str, verb: str) -> list[str]:
    """Return the groups that have a right, by themselves or over others: a record's title and verb, or a permission."""
    return [key for key, rights in rights_of(brief).items() if (what, verb) in rights]


def openers_of(brief: Brief, access: str) -> list[str] | None:
    """Return the groups that may open a page of an access; None when it needs no group."""
    right = needed_right(brief, access)
    if right is None:
        return None
    verb, name = right
    record = brief.record(name) if name else None
    if record is not None:
        return holders_of(brief, record.name.title, verb)
    return holders_of(brief, next(one.key for one in brief.permissions if same_name(one.name.title, verb)), "")
