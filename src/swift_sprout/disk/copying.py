"""Copying a host's tree for a sandbox: cheap where it is safe, byte for byte where a host may write."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

SKIPPED = frozenset({".git", ".hg", ".swift-sprout", "__pycache__", "node_modules", ".mypy_cache", ".ruff_cache"})
LINKED_FROM_BYTES = 1_000_000
DATABASE_HEAD = b"SQLite format 3"


def copy_tree(source: Path, target: Path, leave_out: frozenset[str] = frozenset(), below: str = "") -> None:
    """Copy a tree into an existing folder.

    Large files that are no databases are hard-linked where the file system allows it: edits through a change set and
    ordinary saves replace a file and leave the other name alone. Environments, caches and version control are left out;
    databases are left out as well, since the host's own are copied when they are first opened.

    leave_out -- what else is left out, as paths below the tree's root; below -- where in the tree this call stands
    """
    for entry in os.scandir(source):
        there = target / entry.name
        path = f"{below}{entry.name}"
        if entry.name in SKIPPED or path in leave_out:
            continue
        if entry.is_symlink():
            os.symlink(_absolute_link(Path(entry.path), source), there)
        elif entry.is_dir():
            if os.path.exists(os.path.join(entry.path, "pyvenv.cfg")):
                continue
            there.mkdir()
            copy_tree(Path(entry.path), there, leave_out, f"{path}/")
        elif entry.is_file() and not _is_database(Path(entry.path)):
            _copy_file(Path(entry.path), there, entry.stat().st_size)


def _copy_file(source: Path, target: Path, size: int) -> None:
    if size >= LINKED_FROM_BYTES:
        try:
            os.link(source, target)
            return
        except OSError:
            pass
    shutil.copy2(source, target)


def _absolute_link(link: Path, folder: Path) -> str:
    aim = os.readlink(link)
    return aim if os.path.isabs(aim) else os.path.normpath(folder / aim)


def _is_database(path: Path) -> bool:
    if path.name.endswith(("-wal", "-shm", "-journal")):
        return True
    try:
        with open(path, "rb") as handle:
            return handle.read(len(DATABASE_HEAD)) == DATABASE_HEAD
    except OSError:
        return False
