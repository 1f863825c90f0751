"""What this process and its copies have read of a host: what was found out is kept only where it held all the time.

A file tells when it was changed the last. Where that is before the reading began, its content was that of then, and it
was so for whoever else reads the file and is told the same.
"""

from __future__ import annotations

import os
from collections.abc import Iterable


class Readings:
    """What was read since a moment.

    since         -- that moment, in nanoseconds; 0 where nobody notes what is read
    latest_change -- when one of the files was changed the last whose times were asked after they were read
    places        -- the files that were opened otherwise
    by_others     -- True when other programs were started, which may have read anything
    """

    def __init__(self, since: int = 0) -> None:
        self.since = since
        self.latest_change = 0
        self.places: set[str] = set()
        self.by_others = False

    def told(self) -> tuple[int, list[str], bool]:
        """Return what a copy of this process tells it at its end."""
        return self.latest_change, [*self.places], self.by_others

    def take(self, told: tuple[int, list[str], bool] | None) -> None:
        """Take what a copy of this process has read as read here; None for one that could not tell it."""
        latest, places, by_others = told or (0, [], True)
        self.latest_change = max(self.latest_change, latest)
        self.places.update(places)
        self.by_others |= by_others

    def latest_change_with(self, folders: Iterable[str], but_below: str) -> int:
        """Return when something that was read, or what lies directly in some folders, was changed the last.

        but_below -- where files lie that were read and do not count
        """
        counting = [place for place in self.places if not place.startswith(but_below)]
        return max(self.latest_change, *(_last_change(place) for place in (*counting, *folders)), 0)


def _last_change(place: str) -> int:
    try:
        return os.stat(place).st_ctime_ns
    except (OSError, ValueError):
        return 0  # it has gone: the folder where it was tells
