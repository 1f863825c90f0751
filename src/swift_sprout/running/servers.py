"""Servers of a host that run on this machine, as the system's list of processes tells them."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple

PROCESSES = Path("/proc")


class RunningServer(NamedTuple):
    """A server: its process id, and when it began, in seconds since 1970."""

    process: int
    began: float


def running_servers(root: Path, is_server: Callable[[Sequence[bytes]], bool]) -> list[RunningServer]:
    """Return the servers that run in a host's folder; none where the system does not tell.

    is_server -- tells by the words of a command line whether it is a server of the host that does not reload
    """
    found: list[RunningServer] = []
    for process in _processes():
        entry = f"{PROCESSES}/{process}"
        try:
            with open(f"{entry}/cmdline", "rb") as handle:
                words = handle.read().split(b"\0")
            if is_server(words) and Path(os.readlink(f"{entry}/cwd")) == root:
                found.append(RunningServer(int(process), os.stat(entry).st_mtime))
        except OSError:
            continue
    return found


def _processes() -> list[str]:
    try:
        return [name for name in os.listdir(PROCESSES) if name.isdigit()]
    except OSError:
        return []
