"""A table that a command shows: what it is of, its columns and rows, and sentences below it."""

from __future__ import annotations

from typing import Any, NamedTuple


class Table(NamedTuple):
    """``rows`` have a text for each of ``columns``; ``notes`` are what a reader should see beside."""

    title: str
    columns: tuple[str, ...]
    rows: list[tuple[str, ...]]
    notes: list[str]

    def as_data(self) -> list[dict[str, Any]]:
        """Return the rows as mappings, for other programs."""
        return [dict(zip(self.columns, row, strict=True)) for row in self.rows]
