"""What a file has besides its content and its name: mode, owner and extended attributes."""

from __future__ import annotations

import os
from typing import Any, NamedTuple


class Attributes(NamedTuple):
    """What must survive when a file is replaced by another of the same name.

    mode   -- the permission bits; names -- how many names the file has (hard links)
    extra  -- the extended attributes
    """

    mode: int
    owner: int
    group: int
    names: int
    extra: dict[str, bytes]

    def as_data(self) -> list[Any]:
        """Return them as JSON has them."""
        extra = {name: value.hex() for name, value in self.extra.items()}
        return [self.mode, self.owner, self.group, self.names, extra]

    @classmethod
    def from_data(cls, data: Any) -> Attributes:
        """Read them back; raises ValueError for what is not of this form."""
        mode, owner, group, names, extra = data
        if not all(isinstance(one, int) for one in (mode, owner, group, names)) or not isinstance(extra, dict):
            raise ValueError("attributes of another form")
        return cls(mode & 0o7777, owner, group, names, {str(key): bytes.fromhex(value) for key, value in extra.items()})


def attributes_of(path: str) -> Attributes:
    """Return the attributes of a file; raises OSError."""
    told = os.lstat(path)
    extra: dict[str, bytes] = {}
    try:
        for name in os.listxattr(path, follow_symlinks=False):
            extra[name] = os.getxattr(path, name, follow_symlinks=False)
    except OSError:
        pass  # a file system that has none
    return Attributes(told.st_mode & 0o7777, told.st_uid, told.st_gid, told.st_nlink, extra)


def give(path: str, wanted: Attributes) -> list[str]:
    """Give a file these attributes; returns what could not be kept, in words."""
    lost = []
    told = os.lstat(path)
    if (told.st_uid, told.st_gid) != (wanted.owner, wanted.group):
        try:
            os.chown(path, wanted.owner, wanted.group, follow_symlinks=False)
        except OSError:
            lost.append("owner")
    if told.st_mode & 0o7777 != wanted.mode:
        #  whoever could not give it back to its owner must not let it run with the rights of another
        os.chmod(path, wanted.mode & ~0o6000 if lost else wanted.mode)
    for name, value in wanted.extra.items():
        try:
            os.setxattr(path, name, value, follow_symlinks=False)
        except OSError:
            lost.append(f"extended attribute {name}")
    return lost
