"""Listing trees of files with their times: how it is found out, quickly, whether anything changed since."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterable, Iterator

#  one file: its path, inode, size in bytes, and the times of its last change of content and of anything, in
#  nanoseconds; what is no file has one of the sizes below, and no times. A plain tuple: there may be very many
Listed = tuple[str, int, int, int, int]
FOLDER, NOWHERE, NO_FILE = -1, -2, -3

#  never read for a check, and changed by every run of a host or of a version control
PASSED_BY = frozenset({".git", ".hg", ".svn", ".swift-sprout", "__pycache__", "node_modules"})
ENVIRONMENT_SIGN = "pyvenv.cfg"
#  databases change with every request that the host answers; whoever rests on one says so by itself
DATABASES = (".sqlite", ".sqlite3", ".db")
OF_DATABASES = (*DATABASES, "-wal", "-shm", "-journal")


def list_tree(folder: str, times_of_folders: bool = False) -> Iterator[Listed]:
    """Yield every file and folder below a folder, links followed, in the order in which the system tells them.

    Folders of version control, of other environments and of byte code are passed by; of databases only the name counts.

    times_of_folders -- tell of folders as well when they, which is what lies in them, were changed the last
    """
    waiting = [folder]
    seen: set[int] = set()  # the folders that links led to, so that a circle of links ends
    while waiting:
        try:
            with os.scandir(waiting.pop()) as entries:
                here = list(entries)
        except OSError:
            continue
        names = [entry.name for entry in here]
        if ENVIRONMENT_SIGN in names:
            continue
        for entry, name in zip(here, names, strict=True):
            if name in PASSED_BY:
                continue
            if name.endswith(OF_DATABASES):
                if name.endswith(DATABASES):
                    yield entry.path, 0, NO_FILE, 0, 0
                continue
            try:
                told = entry.stat()
            except OSError:
                yield entry.path, 0, NOWHERE, 0, 0  # a link that leads nowhere
                continue
            kind = stat.S_IFMT(told.st_mode)
            if kind == stat.S_IFREG:
                yield entry.path, told.st_ino, told.st_size, told.st_mtime_ns, told.st_ctime_ns
                continue
            if kind != stat.S_IFDIR:
                yield entry.path, told.st_ino, NO_FILE, 0, 0
                continue
            yield entry.path, told.st_ino, FOLDER, 0, told.st_ctime_ns if times_of_folders else 0
            if entry.is_symlink():
                if told.st_ino in seen:
                    continue
                seen.add(told.st_ino)
            waiting.append(entry.path)


def names_in(folders: Iterable[str]) -> Iterator[str]:
    """Yield the names that lie directly in folders, with the times of those folders: which libraries there are."""
    for folder in folders:
        try:
            yield f"{folder} {os.stat(folder).st_mtime_ns}"
            yield from sorted(os.listdir(folder))
        except OSError:
            continue
