"""No file of a host holds the program up: pipes, sockets, devices and code of a size that nobody writes are not opened.

A pipe that nobody writes to would be waited for without end, a device may never come to its end, and the tree of a
source takes a hundred times its bytes of memory. Whoever reads a host finds them anywhere, so that the interpreter
itself is asked to tell of every file before it is opened. By that it is known as well what was read: ``readings``.
"""

from __future__ import annotations

import errno
import os
import stat
import sys
import time
from typing import Any

from .readings import Readings

SYSTEM = ("/dev/", "/proc/")  # what the user names there, such as the output of another command, is meant
SHARED_MEMORY = "/dev/shm/"  # but not what lies in files there
READ_WHOLE = (".py", ".php", ".xml", ".html", ".cfg", ".conf", ".ini", ".toml", ".po")
LARGEST_BYTES = 4_000_000  # of a file that is read as code
STARTING = ("subprocess.Popen", "os.posix_spawn", "os.exec", "os.system")
_guarded = False
_readings = Readings()


def guard_reading() -> None:
    """From now on, let opening what is no plain file fail like a file that cannot be read; and note what is read."""
    global _guarded
    if not _guarded:
        _guarded = True
        sys.addaudithook(_before)
    note_afresh()


def note_afresh() -> None:
    """Forget what was read until now: a host is looked at afresh."""
    global _readings
    _readings = Readings(time.time_ns() if _guarded else 0)


def readings() -> Readings:
    """Return what was read since that was noted afresh."""
    return _readings


def read_content(path: str) -> bytes:
    """Return the content of a plain file; raises OSError for all else. The quick way, where very many are read."""
    try:
        opened = os.open(path, os.O_RDONLY | os.O_NONBLOCK)  # should it be a pipe: not to wait for its writer
    except OSError as error:
        if error.errno != errno.ENOENT:  # of what is not there, the folder tells when it changes
            _readings.places.add(path)
        raise
    try:
        told = os.fstat(opened)
        if told.st_size > LARGEST_BYTES or not stat.S_ISREG(told.st_mode):
            _refuse(path, told)
        content = os.read(opened, told.st_size + 1)
        changed = os.fstat(opened).st_ctime_ns  # asked after the reading: a change on the way is told
        if changed > _readings.latest_change:
            _readings.latest_change = changed
        return content
    finally:
        os.close(opened)


def _before(event: str, arguments: tuple[Any, ...]) -> None:
    if event != "open":
        if event in STARTING:
            _readings.by_others = True
        return
    path = arguments[0]
    if not isinstance(path, str) or (path.startswith(SYSTEM) and not path.startswith(SHARED_MEMORY)):
        return
    if arguments[1] is None and arguments[2] & os.O_NONBLOCK:
        return  # whoever opens in this way looks at what it is by itself
    if not isinstance(arguments[2], int) or arguments[2] & os.O_ACCMODE == os.O_RDONLY:
        _readings.places.add(arguments[0])
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
