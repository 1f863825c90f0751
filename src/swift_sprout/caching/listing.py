"""Listing trees of files with their times: how it is found out, quickly, whether anything changed since."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable, Iterable, Iterator

#  one file: its path, inode, size in bytes, and the times of its last change of content and of anything, in
#  nanoseconds; what is no file has one of the sizes below, and no times. A plain tuple: there may be very many
Listed = tuple[str, int, int, int, int]
FOLDER, NOWHERE, NO_FILE = -1, -2, -3
Ask = Callable[[os.DirEntry[str]], os.stat_result]

#  never read for a check, and changed by every run of a host or of a version control
PASSED_BY = frozenset({".git", ".hg", ".svn", ".swift-sprout", "__pycache__", "node_modules"})
ENVIRONMENT_SIGN = "pyvenv.cfg"
#  databases change with every request that the host answers; whoever rests on one says so by itself
DATABASES = (".sqlite", ".sqlite3", ".db")
OF_DATABASES = (*DATABASES, "-wal", "-shm", "-journal")
LOG = ".log"  # hosts write there with every run, and no result rests on it


def list_tree(folder: str, times_of_folders: bool = False, ask: Ask = os.DirEntry.stat) -> Iterator[Listed]:
    """Yield every file and folder below a folder, links followed, in the order in which the system tells them.

    Folders of version control, of other environments and of byte code are passed by, logs too; of databases only the
    name counts.

    times_of_folders -- tell of folders as well when they, which is what lies in them, were changed the last
    ask              -- asks the system about one of them; raises OSError for one that cannot be told
    """
    waiting = [folder]
    seen: set[int] = set()  # the folders that links led to, so that a circle of links ends
    while waiting:
        here, below = _list_folder(waiting.pop(), times_of_folders, ask)
        yield from here
        for path, inode, is_link in below:
            if is_link:
                if inode in seen:
                    continue
                seen.add(inode)
            waiting.append(path)


def list_directly(
    folder: str, times_of_folders: bool = False, ask: Ask = os.DirEntry.stat
) -> tuple[list[Listed], list[str]]:
    """Return what lies directly in a folder, and which of that are folders: what lies below is listed one by one."""
    here, below = _list_folder(folder, times_of_folders, ask)
    return here, [path for path, _, _ in below]


def _list_folder(folder: str, times_of_folders: bool, ask: Ask) -> tuple[list[Listed], list[tuple[str, int, bool]]]:
    """Return what lies directly in a folder; and of the folders there path, inode, and whether a link leads to it."""
    here: list[Listed] = []
    below: list[tuple[str, int, bool]] = []
    try:
        with os.scandir(folder) as told:
            entries = list(told)
    except OSError:
        return here, below
    for entry in entries:
        name = entry.name
        if name in PASSED_BY or name.endswith(LOG):
            continue
        if name == ENVIRONMENT_SIGN:
            return [], []
        if name.endswith(OF_DATABASES):
            if name.endswith(DATABASES):
                here.append((entry.path, 0, NO_FILE, 0, 0))
            continue
        try:
            one = ask(entry)
        except OSError:
            here.append((entry.path, 0, NOWHERE, 0, 0))  # a link that leads nowhere
            continue
        kind = stat.S_IFMT(one.st_mode)
        if kind == stat.S_IFREG:
            here.append((entry.path, one.st_ino, one.st_size, one.st_mtime_ns, one.st_ctime_ns))
        elif kind == stat.S_IFDIR:
            here.append((entry.path, one.st_ino, FOLDER, 0, one.st_ctime_ns if times_of_folders else 0))
            below.append((entry.path, one.st_ino, entry.is_symlink()))
        else:
            here.append((entry.path, one.st_ino, NO_FILE, 0, 0))
    return here, below


def last_change_below(folder: str) -> int:
    """Return when something below a folder, or what lies in one of the folders there, was changed the last."""
    return max((one[4] for one in list_tree(folder, times_of_folders=True)), default=0)


def last_change_in(folder: str) -> tuple[int, list[str]]:
    """Return when a folder, or something directly in it, was changed the last; and the folders directly in it."""
    try:
        latest = os.stat(folder).st_ctime_ns
    except OSError:
        return 0, []
    here, folders = list_directly(folder, times_of_folders=True)
    return max(latest, *(one[4] for one in here), 0), folders


def names_in(folders: Iterable[str]) -> Iterator[str]:
    """Yield the names that lie directly in folders, with the times of those folders: which libraries there are."""
    for folder in folders:
        try:
            yield f"{folder} {os.stat(folder).st_mtime_ns}"
            yield from sorted(os.listdir(folder))
        except OSError:
            continue
