"""No file of a host holds the program up: pipes, sockets and devices are never opened for reading.

A pipe that nobody writes to would be waited for without end, and a device may never come to its end. Whoever reads a
host finds them anywhere, so that the interpreter itself is asked to tell of every file before it is opened.
"""

from __future__ import annotations

import errno
import os
import stat
import sys
from typing import Any

SYSTEM = ("/dev/", "/proc/")  # what the user names there, such as the output of another command, is meant
_guarded = False


def guard_reading() -> None:
    """From now on, let opening what is no plain file fail like a file that cannot be read."""
    global _guarded
    if not _guarded:
        _guarded = True
        sys.addaudithook(_before)


def _before(event: str, arguments: tuple[Any, ...]) -> None:
    if event != "open" or not isinstance(arguments[0], str) or arguments[0].startswith(SYSTEM):
        return
    try:
        mode = os.stat(arguments[0]).st_mode
    except (OSError, ValueError):
        return
    if not (stat.S_ISREG(mode) or stat.S_ISDIR(mode)):
        raise OSError(errno.EINVAL, "this is a pipe, a socket or a device, which is not read", arguments[0])
