"""Ending the program, or failing it, at one of its file operations.

The operations are counted where the interpreter itself announces them (``sys.addaudithook``), so that none is missed:
files opened for writing, made, renamed, linked, removed, folders, rights. What is written into a file is counted as
well: there the program is ended with half of it written.
"""

from __future__ import annotations

import builtins
import errno
import io
import os
import signal
import stat
import sys
from collections.abc import Callable
from typing import Any

OPERATIONS = frozenset(
    {"os.mkdir", "os.rmdir", "os.remove", "os.rename", "os.link", "os.symlink", "os.chmod", "os.truncate"}
)
FAILURES = {
    "no space": errno.ENOSPC,
    "no permission": errno.EACCES,
    "read-only": errno.EROFS,
    "interrupted": errno.EINTR,
}
KILLED = "killed"
TOLD = "told to end"
#  killed as well, on a file system that has no hard links, or with the program's state on another disk than the host
WITHOUT_LINKS, ON_TWO_DISKS = "no links", "two disks"
ENDINGS = (KILLED, *FAILURES, TOLD, WITHOUT_LINKS, ON_TWO_DISKS)


class Interruption:
    """Counts the file operations of this process and ends it, or fails the operation, at the n-th (0: never)."""

    def __init__(self, at: int, ending: str) -> None:
        self.at = at
        self.ending = ending
        self.seen = 0
        self._open = builtins.open

    def begin(self) -> None:
        """Watch from now on; there is no way back in this process."""
        sys.addaudithook(self._announced)
        builtins.open = self._opened
        io.open = self._opened

    def _announced(self, event: str, arguments: tuple[Any, ...]) -> None:
        if event == "open":
            path, mode, flags = arguments
            writes = any(sign in (mode or "") for sign in "wax+") or (flags or 0) & (os.O_WRONLY | os.O_RDWR)
            if not writes or no_file(path):
                return
        elif event not in OPERATIONS:
            return
        if event == "os.link":
            self._refuse_link(str(arguments[0]), str(arguments[1]))
        self.step(event, arguments[0])

    def _refuse_link(self, source: str, target: str) -> None:
        state = os.environ["SWIFT_SPROUT_STATE"]
        if self.ending == WITHOUT_LINKS:
            raise OSError(errno.EPERM, os.strerror(errno.EPERM), target)
        if self.ending == ON_TWO_DISKS and source.startswith(state) != target.startswith(state):
            raise OSError(errno.EXDEV, os.strerror(errno.EXDEV), target)

    def step(self, what: str, path: object, halfway: Callable[[], object] = lambda: None) -> None:
        """Count one operation; at the chosen one do half of it, and end."""
        self.seen += 1
        if self.seen != self.at:
            return
        halfway()
        if self.ending == TOLD:
            os.kill(os.getpid(), signal.SIGTERM)
            return
        if self.ending not in FAILURES:
            os.kill(os.getpid(), signal.SIGKILL)
        number = FAILURES[self.ending]
        raise OSError(number, os.strerror(number), str(path))

    def _opened(self, file: Any, mode: str = "r", *arguments: Any, **keywords: Any) -> Any:
        handle = self._open(file, mode, *arguments, **keywords)
        plain = stat.S_ISREG(os.fstat(file).st_mode) if isinstance(file, int) else not no_file(file)
        if set(mode) & set("wax+") and plain:
            return Watched(handle, self)
        return handle


class Watched:
    """A file that is open for writing; what is written into it counts as an operation."""

    def __init__(self, handle: Any, interruption: Interruption) -> None:
        self._handle = handle
        self._interruption = interruption

    def write(self, content: Any) -> int:
        """Write, unless this is the operation at which the program is ended."""

        def halfway() -> None:
            self._handle.write(content[: len(content) // 2])
            self._handle.flush()

        self._interruption.step("write", getattr(self._handle, "name", "?"), halfway)
        written: int = self._handle.write(content)
        return written

    def writelines(self, pieces: Any) -> None:
        """Write piece by piece."""
        for piece in pieces:
            self.write(piece)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._handle, name)

    def __enter__(self) -> Watched:
        self._handle.__enter__()
        return self

    def __exit__(self, *error: object) -> None:
        self._handle.__exit__(*error)

    def __iter__(self) -> Any:
        return iter(self._handle)


def no_file(path: object) -> bool:
    """True for what is open already, and for what the system only shows as files."""
    return isinstance(path, int) or str(path) in (os.devnull, "/dev/tty") or str(path).startswith("/proc/")
