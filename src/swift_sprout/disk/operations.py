"""The one place where the disk is changed for a change set: every step of it, and every flush to the disk.

The order of steps and flushes is what makes a change set survive a loss of power (docs/durability.md); the tests record
the calls of these functions and replay them in every order that a file system may bring them to the disk.
"""

from __future__ import annotations

import os
import stat
from collections.abc import Iterable

ALONE = 0o600


def write_new(path: str, content: bytes, mode: int = 0o666) -> None:
    """Write a file that is not there yet, and flush its content; raises FileExistsError, never follows a link."""
    descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC, mode)
    with os.fdopen(descriptor, "wb") as handle:
        handle.write(content)
        handle.flush()
        os.fsync(descriptor)


def write_pieces(path: str, pieces: Iterable[str]) -> None:
    """Write a new file that only this user can read, bit by bit, and flush its content."""
    descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC, ALONE)
    with os.fdopen(descriptor, "w", encoding="utf-8") as handle:
        handle.writelines(pieces)
        handle.flush()
        os.fsync(descriptor)


def append(path: str, content: bytes) -> None:
    """Add to a file that only this user can read, and flush it; it is made where it is not there."""
    descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_NOFOLLOW | os.O_CLOEXEC, ALONE)
    with os.fdopen(descriptor, "wb") as handle:
        handle.write(content)
        handle.flush()
        os.fsync(descriptor)


def read_plain(path: str) -> bytes:
    """Return the content of a plain file that is no link; raises OSError for all else."""
    descriptor = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
    with os.fdopen(descriptor, "rb") as handle:
        if not stat.S_ISREG(os.fstat(descriptor).st_mode):
            raise OSError(22, "this is no plain file", path)
        return handle.read()


def make_folder(path: str, mode: int = 0o777) -> None:
    """Make a folder."""
    os.mkdir(path, mode)


def rename(source: str, target: str) -> None:
    """Rename a file or folder, over a file that is there."""
    os.rename(source, target)


def link(source: str, target: str) -> None:
    """Give a file a second name; raises FileExistsError, and OSError where the file system has no links."""
    os.link(source, target, follow_symlinks=False)


def unlink(path: str) -> None:
    """Take a name away."""
    os.unlink(path)


def remove_folder(path: str) -> None:
    """Take an empty folder away."""
    os.rmdir(path)


def flush_folder(path: str) -> None:
    """Flush what was made, renamed and taken away directly in a folder; a folder that has gone needs none."""
    try:
        descriptor = os.open(path, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    except OSError:
        return
    try:
        os.fsync(descriptor)
    except OSError:
        pass  # a file system that cannot: docs/durability.md says what follows
    finally:
        os.close(descriptor)
