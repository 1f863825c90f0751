"""What became of a module's content: taken out of a host as files, or put into one."""

from __future__ import annotations

from typing import NamedTuple

FORMAT = "swift-sprout/content/1"
FOLDER = "content"


class TakenContent(NamedTuple):
    """The files of a module's content, by their path below its folder for content, and how many items of each type."""

    files: dict[str, bytes]
    counts: dict[str, int]


class PutContent(NamedTuple):
    """How many items of each type were made, changed, or there already as they are; and what was left open, and why."""

    counts: dict[str, dict[str, int]]
    open: list[str]
