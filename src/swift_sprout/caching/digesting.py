"""What files are known again by: many of them in short, and each by its content."""

from __future__ import annotations

import marshal
import os
from collections.abc import Iterable, Iterator

from ..disk.digests import short_digest_of
from .listing import Ask, Listed, list_directly, list_tree

LARGEST_READ_BYTES = 1_000_000  # of larger files, such as databases, size and times stand for the content


def in_groups(trees: Iterable[str], ask: Ask = os.DirEntry.stat) -> Iterator[list[Listed]]:
    """Yield the files of trees: of each what lies directly in it, then what lies in each folder there."""
    for tree in trees:
        here, folders = list_directly(tree, ask=ask)
        yield here
        yield from (list(list_tree(folder, ask=ask)) for folder in folders)


def folder_in_short(folder: str) -> tuple[str, int]:
    """Return what ``in_short`` does of all that lies below a folder."""
    return in_short(list(list_tree(folder)))


def in_short(group: list[Listed]) -> tuple[str, int]:
    """Return the digest of some files as they are listed, and when one of them was changed the last."""
    return short_digest_of(marshal.dumps(group, 2)), max((one[4] for one in group), default=0)


def same_file(listed: Listed) -> str:
    """Return what is another as soon as a file is another, or its content was changed."""
    _, inode, size, modified, changed = listed
    return f"{inode} {size} {modified} {changed}"


def digest_of_content(listed: Listed) -> str:
    """Read a file and return the digest of its content, or what stands for that."""
    return read_and_digest(listed[0])[1] if 0 <= listed[2] <= LARGEST_READ_BYTES else unread(listed)


def unread(listed: Listed) -> str:
    """Return what stands for the content of what is not read: folders, and files that are too large."""
    return f"{listed[2]} {listed[3]}"


def read_and_digest(path: str) -> tuple[os.stat_result | None, str]:
    """Return what the system says of a file that is read, None where it says nothing; and the digest of its content."""
    told: os.stat_result | None = None
    try:
        opened = os.open(path, os.O_RDONLY | os.O_NONBLOCK)  # should it have become a pipe: not to wait for its writer
        try:
            told = os.fstat(opened)
            if told.st_size > LARGEST_READ_BYTES:
                return told, f"{told.st_size} {told.st_mtime_ns}"
            return told, short_digest_of(os.read(opened, told.st_size + 1))  # what grows meanwhile: its times tell
        finally:
            os.close(opened)
    except OSError as error:
        return told, f"unread {error.errno}"
