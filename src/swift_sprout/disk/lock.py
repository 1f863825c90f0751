"""One writer at a time on one host: the lock is held on the host's folder itself, so that it leaves no file there.

Whoever may read the folder can hold it, so users exclude each other as well. The system frees it when the last process
that has it open ends: a killed run, or a program that it started and that can still write.
"""

from __future__ import annotations

import errno
import fcntl
import os
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from ..core.errors import Refused

DEFAULT_WAIT_SECONDS = 60.0
HOLDER = "holder"


@contextmanager
def writer_lock(
    root: Path, state: Path, purpose: str, wait_seconds: float, tell: Callable[[str], None]
) -> Iterator[int]:
    """Hold the host's writer lock while the block runs; yields the descriptor that holds it.

    root    -- the host's folder
    state   -- the folder of its state, where this run says what it does: shown to runs of the same user that wait
    tell    -- called once, with a sentence, when another run holds the lock

    Raises Refused when the lock is still held after ``wait_seconds``.
    """
    descriptor = os.open(root, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    try:
        if not _acquire(descriptor, state / HOLDER, wait_seconds, tell):
            #  a network file system that locks no folders: runs of one user still exclude each other
            os.close(descriptor)
            descriptor = os.open(state, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
            _acquire(descriptor, state / HOLDER, wait_seconds, tell)
        _say(state / HOLDER, f"process {os.getpid()}, {purpose}")
        yield descriptor
        _say(state / HOLDER, "")
    finally:
        os.close(descriptor)


def wait_for_writer(root: Path, wait_seconds: float) -> None:
    """Wait until nobody writes to a host, at most so long; nothing is held afterwards."""
    descriptor = os.open(root, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    deadline = time.monotonic() + wait_seconds
    try:
        while time.monotonic() < deadline:
            try:
                fcntl.flock(descriptor, fcntl.LOCK_SH | fcntl.LOCK_NB)
                return
            except BlockingIOError:
                time.sleep(0.02)
            except OSError:
                return
    finally:
        os.close(descriptor)


def _acquire(descriptor: int, holder: Path, wait_seconds: float, tell: Callable[[str], None]) -> bool:
    """Wait for the lock; False where the file system has none on this folder."""
    deadline = time.monotonic() + wait_seconds
    told = False
    while True:
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return True
        except BlockingIOError:
            who = _said(holder) or "another run"
        except OSError as error:
            if error.errno in (errno.EBADF, errno.ENOLCK, errno.EOPNOTSUPP, errno.EINVAL):
                return False
            raise
        if time.monotonic() >= deadline:
            raise Refused(
                "host-busy",
                f"Another swift-sprout ({who}) is still writing to this host.",
                "Wait for it to end, or give more time with --wait SECONDS.",
            )
        if not told:
            tell(f"Waiting for another swift-sprout ({who}), at most {wait_seconds:.0f} s.")
            told = True
        time.sleep(0.05)


def _say(holder: Path, text: str) -> None:
    """Say what this run does; a disk that does not take it is told where the work itself fails."""
    try:
        descriptor = os.open(holder, os.O_WRONLY | os.O_CREAT | os.O_TRUNC | os.O_NOFOLLOW | os.O_CLOEXEC, 0o600)
        with os.fdopen(descriptor, "w", encoding="utf-8", errors="replace") as handle:
            handle.write(text)
    except OSError:
        return


def _said(holder: Path) -> str:
    try:
        return holder.read_text("utf-8", "replace")
    except OSError:
        return ""
