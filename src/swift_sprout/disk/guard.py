"""No file of a host holds the program up: pipes, sockets, devices and code of a size that nobody writes are not opened.

A pipe that nobody writes to would be waited for without end, a device may never come to its end, and the tree of a
source takes a hundred times its bytes of memory. Whoever reads a host finds them anywhere, so that the interpreter
itself is asked to tell of every file before it is opened.
"""

from __future__ import annotations

import errno
import os
import stat
import sys
from typing import Any

SYSTEM = ("/dev/", "/proc/")  # what the user names there, such as the output of another command, is meant
READ_WHOLE = (".py", ".php", ".xml", ".html", ".cfg", ".conf", ".ini", ".toml", ".po")
LARGEST_BYTES = 4_000_000  # of a file that is read as code
_guarded = False


def guard_reading() -> None:
    """From now on, let opening what is no plain file fail like a file that cannot be read."""
    global _guarded
    if not _guarded:
        _guarded = True
        sys.addaudithook(_before)


def read_content(path: str) -> bytes:
    """Return the content of a plain file; raises OSError for all else. The quick way, where very many are read."""
    opened = os.open(path, os.O_RDONLY | os.O_NONBLOCK)  # should it be a pipe: not to wait for its writer
    try:
        told = os.fstat(opened)
        _refuse(path, told)
        return os.read(opened, told.st_size + 1)
    finally:
        os.close(opened)


def _before(event: str, arguments: tuple[Any, ...]) -> None:
    if event != "open" or not isinstance(arguments[0], str) or arguments[0].startswith(SYSTEM):
        return
    if arguments[1] is None and arguments[2] & os.O_NONBLOCK:
        return  # whoever opens in this way looks at what it is by itself
    try:
        told = os.stat(arguments[0])
    except (OSError, ValueError):
        return
    _refuse(arguments[0], told)


def _refuse(path: str, told: os.stat_result) -> None:
    if not (stat.S_ISREG(told.st_mode) or stat.S_ISDIR(told.st_mode)):
        raise OSError(errno.EINVAL, "this is a pipe, a socket or a device, which is not read", path)
    if told.st_size > LARGEST_BYTES and path.endswith(READ_WHOLE):
        raise OSError(errno.EFBIG, "this is larger than 4 MB, which is not read as code", path)
