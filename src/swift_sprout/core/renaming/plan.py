"""The plan of a renaming: which files move, what changes in each, and what is left to the person."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from typing import NamedTuple

from .occurrences import Occurrence


class Step(NamedTuple):
    """One row of a plan: a kind of occurrence, how often it stands in how many files, and one of them as an example."""

    kind: str
    times: int
    files: int
    before: str
    after: str


class RenamePlan(NamedTuple):
    """What a renaming does.

    moves    -- files by their paths, and where they go
    found    -- the occurrences in their texts that are renamed
    doubtful -- those that may be common words: left alone unless a person takes them
    kept     -- places that keep the old name on purpose, with the reason
    untouched -- files that are not read: no text, or too large
    """

    moves: Mapping[str, str]
    found: tuple[Occurrence, ...]
    doubtful: tuple[Occurrence, ...]
    kept: tuple[tuple[str, str], ...] = ()
    untouched: tuple[str, ...] = ()

    def steps(self, doubtful: bool = False) -> list[Step]:
        """Return the occurrences by kind, the most frequent first."""
        rows = self.doubtful if doubtful else self.found
        times = Counter(one.kind for one in rows)
        return [
            Step(
                kind,
                count,
                len({one.path for one in rows if one.kind == kind}),
                next(one.before for one in rows if one.kind == kind),
                next(one.after for one in rows if one.kind == kind),
            )
            for kind, count in times.most_common()
        ]
