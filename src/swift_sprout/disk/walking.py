"""The files of a host that people write."""

from __future__ import annotations

import os
from collections.abc import Collection, Iterator
from pathlib import Path

_NOT_WRITTEN = frozenset({".git", ".hg", ".svn", ".tox", ".nox", ".mypy_cache", ".ruff_cache", ".pytest_cache"})
_MADE_BY_PROGRAMS = (".pyc", ".sqlite3", ".sqlite", ".db", ".log", ".pid")


def written_files(root: Path, skipped: Collection[str], kept: Collection[str] = ()) -> Iterator[Path]:
    """Yield the files below a root that people write, in order.

    Left out are links, environments, what version control keeps, caches, databases and logs.

    skipped -- names of folders that are left out
    kept    -- paths below the root that the host keeps for itself
    """
    for where, folders, names in os.walk(root):
        here = Path(where)
        folders[:] = sorted(one for one in folders if _is_walked(root, here / one, skipped, kept))
        for name in sorted(names):
            path = here / name
            if not path.is_symlink() and path.is_file() and path.suffix not in _MADE_BY_PROGRAMS:
                yield path


def _is_walked(root: Path, folder: Path, skipped: Collection[str], kept: Collection[str]) -> bool:
    if folder.name in skipped or folder.name in _NOT_WRITTEN or folder.is_symlink():
        return False
    return folder.relative_to(root).as_posix() not in kept and not (folder / "pyvenv.cfg").exists()
