"""A folder for the time of one check: in memory where the system has such a place, gone afterwards."""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

IN_MEMORY = Path("/dev/shm")


@contextmanager
def scratch_folder() -> Iterator[Path]:
    """Make a folder that only this user can read, and remove it with all it holds at the end."""
    base = IN_MEMORY if os.access(IN_MEMORY, os.W_OK) else Path(os.environ.get("TMPDIR", "/tmp"))
    folder = base / f"swift-sprout-{os.getpid()}-{time.monotonic_ns()}"
    folder.mkdir(mode=0o700)
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)
