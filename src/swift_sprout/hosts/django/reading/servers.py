"""Servers of a host that run on this machine, as the system's list of processes tells them."""

from __future__ import annotations

import os
from pathlib import Path
from typing import NamedTuple

PROCESSES = Path("/proc")


class RunningServer(NamedTuple):
    """A server: its process id, and when it began, in seconds since 1970."""

    process: int
    began: float


def running_servers(root: Path) -> list[RunningServer]:
    """Return the servers that run in a host's folder and do not reload; none where the system does not tell."""
    found: list[RunningServer] = []
    for entry in PROCESSES.glob("[0-9]*") if PROCESSES.is_dir() else ():
        try:
            words = (entry / "cmdline").read_bytes().split(b"\0")
            if b"runserver" not in words or b"--noreload" not in words or Path(os.readlink(entry / "cwd")) != root:
                continue
            found.append(RunningServer(int(entry.name), entry.stat().st_mtime))
        except OSError:
            continue
    return found
