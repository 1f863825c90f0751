"""The files of a host that people write."""

from __future__ import annotations

import os
from collections.abc import Collection, Iterator
from pathlib import Path
from typing import NamedTuple

from ..core.errors import Refused
from ..core.patterns import FOLDER

KEPT_IN_COPY = ".swift-sprout-state"  # where the journal of a throw-away copy lies
NOT_WRITTEN = frozenset(
    {".git", ".hg", ".svn", ".tox", ".nox", ".mypy_cache", ".ruff_cache", ".pytest_cache", FOLDER, KEPT_IN_COPY}
)
MADE_BY_PROGRAMS = (".pyc", ".sqlite3", ".sqlite", ".db", ".log", ".pid")


class Written(NamedTuple):
    """A file: its path below the root with forward slashes, its size in bytes, and where it lies."""

    path: str
    size: int
    place: str

    def read(self) -> bytes:
        """Return what it holds."""
        with open(self.place, "rb") as handle:
            return handle.read()


def all_files(root: Path, folder: str) -> Iterator[Written]:
    """Yield every file in a folder below a root, or that one file, in order; only byte code is left out.

    Raises Refused for a link, and for whatever is no plain file.
    """
    waiting = [folder]
    while waiting:
        path = waiting.pop()
        place = root / path
        if place.is_dir() and not place.is_symlink():
            names = sorted(os.listdir(place), reverse=True)
            waiting += [f"{path}/{name}" for name in names if name != "__pycache__" and not name.endswith(".pyc")]
        elif place.is_symlink() or not place.is_file():
            raise Refused(
                "not-a-file", f"{path} is a link or no plain file; nothing was changed.", "Take it away by hand first."
            )
        else:
            yield Written(path, place.stat().st_size, str(place))


def written_files(root: Path, skipped: Collection[str], kept: Collection[str] = ()) -> Iterator[Written]:
    """Yield the files below a root that people write, in order.

    Left out are links, environments, what version control keeps, caches, databases and logs.

    skipped -- names of folders that are left out
    kept    -- paths below the root that the host keeps for itself
    """
    left_out = NOT_WRITTEN | frozenset(skipped)
    waiting = [("", str(root))]
    while waiting:
        start, folder = waiting.pop()
        inner = []
        for entry in sorted(os.scandir(folder), key=lambda one: one.name):
            path = f"{start}{entry.name}"
            if entry.is_dir(follow_symlinks=False):
                if entry.name not in left_out and path not in kept and not os.path.exists(f"{entry.path}/pyvenv.cfg"):
                    inner.append((f"{path}/", entry.path))
            elif entry.is_file(follow_symlinks=False) and not entry.name.endswith(MADE_BY_PROGRAMS):
                yield Written(path, entry.stat(follow_symlinks=False).st_size, entry.path)
        waiting += reversed(inner)
