"""Starting and ending other programs: argument lists, time limits, an own process group, ended by id."""

from __future__ import annotations

import atexit
import os
import signal
import subprocess
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import IO, NamedTuple

from . import keeper
from .inherited import inherited
from .keeper import unwatch_group, watch_group

KEPT_BYTES = 64 * 1024


class TailReader:
    """Reads a stream to its end on a thread of its own and keeps the last KEPT_BYTES, whatever a host prints."""

    def __init__(self, stream: IO[bytes]) -> None:
        self._stream = stream
        self._kept = bytearray()
        self.total = 0
        self._thread = threading.Thread(target=self._read, daemon=True)
        self._thread.start()

    def _read(self) -> None:
        while chunk := self._more():
            self.total += len(chunk)
            self._kept += chunk
            if len(self._kept) > 2 * KEPT_BYTES:
                del self._kept[:-KEPT_BYTES]

    def _more(self) -> bytes:
        try:
            return os.read(self._stream.fileno(), 65536)
        except (OSError, ValueError):  # whoever owns the stream has closed it
            return b""

    def has(self, words: str, limit_seconds: float) -> bool:
        """Wait until a program has said some words; False when it ends, or the time runs out, before it did."""
        deadline = time.monotonic() + limit_seconds
        while self._thread.is_alive() and time.monotonic() < deadline:
            if words.encode() in self._kept:
                return True
            self._thread.join(0.005)
        return False

    def text(self, wait_seconds: float = 1.0) -> str:
        """Return the kept end of what was read, control characters made visible."""
        self._thread.join(wait_seconds)
        return plain_text(bytes(self._kept[-KEPT_BYTES:]).decode("utf-8", "replace"))


def plain_text(text: str) -> str:
    """Make terminal control characters of foreign output harmless."""
    return "".join(letter if letter in "\n\t" or letter.isprintable() else "·" for letter in text)


class Ended(NamedTuple):
    """How a program ended; ``status`` is None when its time ran out and it was ended."""

    status: int | None
    output: str
    seconds: float


def start(
    command: Sequence[str],
    folder: Path,
    environment: Mapping[str, str] | None = None,
    stdin: int | None = subprocess.DEVNULL,
    stdout: int | None = subprocess.PIPE,
    stderr: int | None = subprocess.STDOUT,
    keeps_locks: bool = True,
) -> subprocess.Popen[bytes]:
    """Start a program in a process group of its own.

    keeps_locks -- it holds the locks that we hold as long as it runs, and is ended when this process is killed; not
    for what may serve other runs after ours
    """
    with inherited(keeps_locks) as descriptors:
        process = subprocess.Popen(
            list(command),
            cwd=folder,
            env={**os.environ, **(environment or {})},
            stdin=stdin,
            stdout=stdout,
            stderr=stderr,
            start_new_session=True,
            pass_fds=descriptors,
        )
    if keeps_locks:
        watch_group(process.pid)
    return process


_LET_GO: dict[str, Callable[[], object]] = {}


def at_end(name: str, let_go: Callable[[], object]) -> None:
    """Have something done when this program ends, also when it is killed; what has one name is done once."""
    if not _LET_GO:
        atexit.register(end_all)
    if name not in _LET_GO:
        _LET_GO[name] = let_go
        keeper.when_killed(name, let_go)


def end_all() -> None:
    """Do what was asked for at the end, last first."""
    while _LET_GO:
        name, let_go = _LET_GO.popitem()
        let_go()
        keeper.done(name)


def end(process: subprocess.Popen[bytes], grace_seconds: float = 3.0) -> None:
    """End a program and everything it started: asked first, then made to."""
    for number in (signal.SIGTERM, signal.SIGKILL):
        try:
            os.killpg(process.pid, number)
        except (ProcessLookupError, PermissionError):
            pass
        try:
            process.wait(grace_seconds)
        except subprocess.TimeoutExpired:
            continue
        if not _group_alive(process.pid):
            break
    unwatch_group(process.pid)


def _group_alive(group: int) -> bool:
    try:
        os.killpg(group, 0)
    except (ProcessLookupError, PermissionError):
        return False
    return True


def run(
    command: Sequence[str],
    folder: Path,
    limit_seconds: float,
    environment: Mapping[str, str] | None = None,
) -> Ended:
    """Run a program to its end, at most ``limit_seconds``; raises OSError when it cannot be started."""
    began = time.monotonic()
    process = start(command, folder, environment)
    assert process.stdout is not None
    reader = TailReader(process.stdout)
    status: int | None
    try:
        status = process.wait(limit_seconds)
    except subprocess.TimeoutExpired:
        status = None
    finally:
        end(process)
    text = reader.text()
    process.stdout.close()
    return Ended(status, text, time.monotonic() - began)
