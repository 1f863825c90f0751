"""Listing trees of files with their times: how it is found out, quickly, whether anything changed since."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable, Iterable, Iterator

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


def list_tree(
    folder: str,
    times_of_folders: bool = False,
    ask: Callable[[os.DirEntry[str]], os.stat_result] = os.DirEntry.stat,
) -> Iterator[Listed]:
    """Yield every file and folder below a folder, links followed, in the order in which the system tells them.

    Folders of version control, of other environments and of byte code are passed by; of databases only the name counts.

    times_of_folders -- tell of folders as well when they, which is what lies in them, were changed the last
    ask              -- asks the system about one of them; raises OSError for one that cannot be told
    """
    waiting = [folder]
    seen: set[int] = set()  # the folders that links led to, so that a circle of links ends
    while waiting:
        for one, is_link in _list_folder(waiting.pop(), times_of_folders, ask):
            yield one
            if one[2] != FOLDER or (is_link and one[1] in seen):
                continue
            if is_link:
                seen.add(one[1])
            waiting.append(one[0])


def _list_folder(
    folder: str, times_of_folders: bool, ask: Callable[[os.DirEntry[str]], os.stat_result] = os.DirEntry.stat
) -> Iterator[tuple[Listed, bool]]:
    """Yield what lies directly in a folder, and whether each is a folder that a link leads to."""
    try:
        with os.scandir(folder) as entries:
            here = list(entries)
    except OSError:
        return
    names = [entry.name for entry in here]
    if ENVIRONMENT_SIGN in names:
        return
    for entry, name in zip(here, names, strict=True):
        if name in PASSED_BY:
            continue
        if name.endswith(OF_DATABASES):
            if name.endswith(DATABASES):
                yield (entry.path, 0, NO_FILE, 0, 0), False
            continue
        try:
            told = ask(entry)
        except OSError:
            yield (entry.path, 0, NOWHERE, 0, 0), False  # a link that leads nowhere
            continue
        kind = stat.S_IFMT(told.st_mode)
        if kind == stat.S_IFREG:
            yield (entry.path, told.st_ino, told.st_size, told.st_mtime_ns, told.st_ctime_ns), False
        elif kind == stat.S_IFDIR:
            changed = told.st_ctime_ns if times_of_folders else 0
            yield (entry.path, told.st_ino, FOLDER, 0, changed), entry.is_symlink()
        else:
            yield (entry.path, told.st_ino, NO_FILE, 0, 0), False


def last_change_below(folder: str) -> int:
    """Return when something below a folder, or what lies in one of the folders there, was changed the last."""
    return max((one[4] for one in list_tree(folder, times_of_folders=True)), default=0)


def last_change_in(folder: str) -> tuple[int, list[str]]:
    """Return when a folder, or something directly in it, was changed the last; and the folders directly in it."""
    try:
        latest = os.stat(folder).st_ctime_ns
    except OSError:
        return 0, []
    here = [one for one, _ in _list_folder(folder, times_of_folders=True)]
    return max(latest, *(one[4] for one in here), 0), [one[0] for one in here if one[2] == FOLDER]


def names_in(folders: Iterable[str]) -> Iterator[str]:
    """Yield the names that lie directly in folders, with the times of those folders: which libraries there are."""
    for folder in folders:
        try:
            yield f"{folder} {os.stat(folder).st_mtime_ns}"
            yield from sorted(os.listdir(folder))
        except OSError:
            continue
