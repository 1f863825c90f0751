"""One writer at a time on one host."""

from __future__ import annotations

import fcntl
import os
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from ..core.errors import Refused

DEFAULT_WAIT_SECONDS = 60.0


@contextmanager
def writer_lock(folder: Path, purpose: str, wait_seconds: float, on_wait: Callable[[str], None]) -> Iterator[None]:
    """Hold the host's writer lock while the block runs.

    folder   -- the state folder, which exists
    purpose  -- what this run does, shown to runs that wait
    on_wait  -- called once, with a sentence, when another run holds the lock

    Raises Refused when the lock is still held after ``wait_seconds``. The system frees the lock of a killed run.
    """
    with open(folder / "lock", "a+", encoding="utf-8") as handle:
        _acquire(handle.fileno(), folder / "lock", wait_seconds, on_wait)
        handle.seek(0)
        handle.truncate()
        handle.write(f"process {os.getpid()}, {purpose}")
        handle.flush()
        yield
        handle.seek(0)
        handle.truncate()


def _acquire(descriptor: int, path: Path, wait_seconds: float, on_wait: Callable[[str], None]) -> None:
    deadline = time.monotonic() + wait_seconds
    told = False
    while True:
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return
        except BlockingIOError:
            holder = path.read_text("utf-8") or "another run"
        if time.monotonic() >= deadline:
            raise Refused(
                "host-busy",
                f"Another swift-sprout ({holder}) is still writing to this host.",
                "Wait for it to end, or give more time with --wait SECONDS.",
            )
        if not told:
            on_wait(f"Waiting for another swift-sprout ({holder}), at most {wait_seconds:.0f} s.")
            told = True
        time.sleep(0.05)
