"""What a result rests on."""

from __future__ import annotations

from typing import NamedTuple


class RestsOn(NamedTuple):
    """What a check of a host's files rests on: as long as all of it is the same, so is the result.

    trees     -- folders, all files below which count
    libraries -- folders of which only the names in them count
    facts     -- whatever else counts: versions, servers that run
    """

    trees: tuple[str, ...]
    libraries: tuple[str, ...] = ()
    facts: tuple[str, ...] = ()
