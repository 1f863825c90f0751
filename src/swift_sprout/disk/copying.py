"""Copying a host's tree for a sandbox, so that nothing written in the copy reaches the host.

Files share their blocks with the host's where the file system does that by itself (a reflink: whoever writes gets
blocks of its own), and are copied byte for byte elsewhere. Links that lead inside the host lead inside the copy.
"""

from __future__ import annotations

import os
import shutil
from pathlib import Path

from . import reflink

SKIPPED = frozenset({".git", ".hg", ".swift-sprout", "__pycache__", ".mypy_cache", ".ruff_cache"})
DATABASE_HEAD = b"SQLite format 3"


def copy_tree(
    source: Path, target: Path, leave_out: frozenset[str] = frozenset(), link: frozenset[str] = frozenset()
) -> list[str]:
    """Copy a tree into an existing folder; returns the links that lead out of it, as paths below its root.

    Environments, caches and version control are left out; databases are left out as well, since the host's own are
    copied when they are first opened.

    leave_out -- what else is left out, as paths below the tree's root
    link      -- names of folders of installed dependencies, to which the copy only links
    """
    outward: list[str] = []
    waiting = [""]
    while waiting:
        below = waiting.pop()
        for entry in os.scandir(source / below):
            path = f"{below}{entry.name}"
            there = target / path
            if entry.name in SKIPPED or path in leave_out:
                continue
            if entry.is_symlink():
                aim, leads_out = _aim(Path(entry.path), source, target)
                os.symlink(aim, there)
                outward += [path] if leads_out else []
            elif entry.is_dir() and entry.name in link:
                os.symlink(entry.path, there)
            elif entry.is_dir():
                if not os.path.exists(os.path.join(entry.path, "pyvenv.cfg")):
                    there.mkdir()
                    waiting.append(f"{path}/")
            elif entry.is_file() and not _is_database(Path(entry.path)):
                if not reflink.share(entry.path, str(there)):
                    shutil.copyfile(entry.path, there)
                shutil.copystat(entry.path, there)
    return outward


def _aim(link: Path, root: Path, copied: Path) -> tuple[str, bool]:
    """Return where a link leads in the copy, and whether that is out of it: into the copy what led into the host."""
    aim = os.readlink(link)
    whole = Path(os.path.normpath(link.parent / aim))
    for base in (root, Path(os.path.realpath(root))):
        if whole.is_relative_to(base):
            return (str(copied / whole.relative_to(base)) if os.path.isabs(aim) else aim), False
    return str(whole), True


def _is_database(path: Path) -> bool:
    if path.name.endswith(("-wal", "-shm", "-journal")):
        return True
    try:
        with open(path, "rb") as handle:
            return handle.read(len(DATABASE_HEAD)) == DATABASE_HEAD
    except OSError:
        return False
