"""A folder for the time of one check: in memory where the system has such a place, gone afterwards."""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

IN_MEMORY = Path("/dev/shm")


PREFIX = "swift-sprout-"


@contextmanager
def scratch_folder(keep: bool = False, on_disk: bool = False) -> Iterator[Path]:
    """Make a folder that only this user can read, and remove it with all it holds at the end.

    keep -- leave it; on_disk -- not in memory, for what may be large
    """
    on_memory = not on_disk and os.access(IN_MEMORY, os.W_OK)
    base = IN_MEMORY if on_memory else Path(os.environ.get("TMPDIR", "/tmp"))
    folder = base / f"{PREFIX}{os.getpid()}-{time.monotonic_ns()}"
    folder.mkdir(mode=0o700)
    if keep:
        (folder / ".kept").touch()
    try:
        yield folder
    finally:
        if not keep:
            shutil.rmtree(folder, ignore_errors=True)


def remove_left_behind() -> None:
    """Remove folders of this user's runs that were killed before they could do it themselves; kept ones stay."""
    for base in (IN_MEMORY, Path(os.environ.get("TMPDIR", "/tmp"))):
        for folder in base.glob(f"{PREFIX}*-*") if base.is_dir() else ():
            process = folder.name.removeprefix(PREFIX).partition("-")[0]
            mine = folder.stat().st_uid == os.getuid()
            if mine and process.isdigit() and not Path(f"/proc/{process}").exists() and not (folder / ".kept").exists():
                shutil.rmtree(folder, ignore_errors=True)
