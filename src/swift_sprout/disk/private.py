"""Folders for one user alone: owned by that user, closed to all others, never reached through a link."""

from __future__ import annotations

import os
import stat
from pathlib import Path

from ..core.errors import Refused
from . import operations

FOLDER_MODE = 0o700


def private_folder(base: Path, *below: str) -> Path:
    """Make a folder below a base, and return it; every folder from the base down is for this user alone.

    Raises Refused where one of them is a link, no folder, or somebody else's, and OSError where it cannot be made.
    """
    base.parent.mkdir(parents=True, exist_ok=True)
    folder = base
    for name in ("", *below):
        folder = folder / name if name else folder
        try:
            operations.make_folder(str(folder), FOLDER_MODE)
            operations.flush_folder(str(folder.parent))
        except FileExistsError:
            _close(folder)
    return folder


def is_private(folder: Path) -> bool:
    """True for a folder that is this user's, closed to others, and no link."""
    try:
        told = os.lstat(folder)
    except OSError:
        return False
    return stat.S_ISDIR(told.st_mode) and told.st_uid == os.geteuid() and not told.st_mode & 0o077


def _close(folder: Path) -> None:
    """Close a folder to others; raises Refused for one that is a link, no folder, or somebody else's."""
    told = os.lstat(folder)
    if not stat.S_ISDIR(told.st_mode):
        raise _refused(folder, "is a link" if stat.S_ISLNK(told.st_mode) else "is no folder")
    if told.st_uid != os.geteuid():
        raise _refused(folder, "belongs to another user")
    if told.st_mode & 0o077:
        os.chmod(folder, FOLDER_MODE)


def _refused(folder: Path, what: str) -> Refused:
    return Refused(
        "state-not-private",
        f"{folder} {what}; nothing was changed.",
        "Take it away, or name another folder in the environment variable SWIFT_SPROUT_STATE.",
    )
