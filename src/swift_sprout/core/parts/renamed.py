"""Records that have another name in a changed brief: what a refresh does for them, so that their rows are not lost."""

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
