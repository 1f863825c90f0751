"""Effective rights: who may do what with which record, closed over groups and inclusion."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

VERBS = ("read", "create", "change", "delete")


class Holder(NamedTuple):
    """Somebody who holds rights.

    sort   -- ``group`` or ``user``
    rights -- pairs of record and verb (or a permission's name with an empty verb); everything for ``all_rights``
    note   -- what is worth saying, such as that a group has no members
    """

    sort: str
    name: str
    rights: frozenset[tuple[str, str]]
    all_rights: bool = False
    note: str = ""


def closed(
    own: Mapping[str, Iterable[tuple[str, str]]], includes: Mapping[str, Iterable[str]], name: str
) -> frozenset[tuple[str, str]]:
    """Return a group's rights with those of all groups that it includes, over any number of steps."""
    found: set[tuple[str, str]] = set()
    waiting, seen = [name], set()
    while waiting:
        group = waiting.pop()
        if group in seen:
            continue
        seen.add(group)
        found |= set(own.get(group, ()))
        waiting += includes.get(group, ())
    return frozenset(found)


def matrix(records: Iterable[str], permissions: Iterable[str], holders: Iterable[Holder]) -> list[tuple[str, ...]]:
    """Return the rows of the table of rights: sort, who, record, a cell for each verb, other permissions."""
    rows: list[tuple[str, ...]] = []
    others = list(permissions)
    for holder in holders:
        more = ", ".join(one for one in others if holder.all_rights or (one, "") in holder.rights)
        shown = [
            (record, tuple("yes" if holder.all_rights or (record, verb) in holder.rights else "–" for verb in VERBS))
            for record in records
        ]
        for number, (record, cells) in enumerate(shown):
            first = number == 0
            head = (holder.sort, holder.name) if first else ("", "")
            rows.append((*head, record, *cells, more if first else ""))
        if not shown:
            rows.append((holder.sort, holder.name, "", "", "", "", "", more))
    return rows


def unseen(records: Iterable[str], holders: Iterable[Holder]) -> list[str]:
    """Return the records that no group may read."""
    groups = [holder for holder in holders if holder.sort == "group"]
    return [record for record in records if not any((record, "read") in holder.rights for holder in groups)]
