"""Records and fields that a changed brief names otherwise or no longer: what becomes of their rows must be told."""

from __future__ import annotations

from collections.abc import Sequence

from .records import Record


def renamed_records(before: Sequence[Record], after: Sequence[Record]) -> list[tuple[Record, Record]]:
    """Return the records that are gone, each with the only new one that has the same fields."""
    kept, known = {one.key for one in after}, {one.key for one in before}
    gone = [one for one in before if one.key not in kept]
    come = [one for one in after if one.key not in known]
    found = []
    for one in gone:
        alike = [other for other in come if _shape(other) == _shape(one)]
        if len(alike) == 1 and sum(_shape(other) == _shape(one) for other in gone) == 1:
            found.append((one, alike[0]))
    return found


def _shape(record: Record) -> list[tuple[str, str]]:
    return [(field.name, field.type) for field in record.fields]


def gone_records(before: Sequence[Record], after: Sequence[Record]) -> list[Record]:
    """Return the records that are gone and have no other name."""
    kept = {one.key for one in after} | {one.key for one, _ in renamed_records(before, after)}
    return [one for one in before if one.key not in kept]


def gone_fields(before: Sequence[Record], after: Sequence[Record]) -> list[tuple[Record, str]]:
    """Return the fields that are gone from records that are there, without a new one of their sort in their place."""
    now = {one.key: one for one in after} | {one.key: other for one, other in renamed_records(before, after)}
    found = []
    for record in before:
        if record.key in now:
            fields = now[record.key].fields
            names = {field.name for field in fields}
            old_names = {field.name for field in record.fields}
            for number, field in enumerate(record.fields):
                there = fields[number] if number < len(fields) else None
                renamed = there is not None and there.name not in old_names and there.type == field.type
                if field.name not in names and not renamed:
                    found.append((record, field.name))
    return found
