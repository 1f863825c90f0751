"""What must be done when this process is killed outright: a small copy of it watches, and does it then.

The copy waits at a pipe that nobody writes to once this process has gone. It ends the process groups that were told to
it and are still there, or does what it was made for. Nothing else of this process is left in it: its files are closed.
"""

from __future__ import annotations

import fcntl
import os
import select
import signal
import time
from collections.abc import Callable

GRACE_SECONDS = 2.0
LONGEST_SECONDS = 60
GONE_SECONDS = 10.0  # from the closing of its pipe until the system has closed the rest of a killed process

_lines: dict[str, int] = {}  # what is watched over, and the end of the pipe that this process holds


def _forget() -> None:
    """In a copy of this process, let go of the pipes: only this process itself counts."""
    for descriptor in _lines.values():
        os.close(descriptor)
    _lines.clear()


os.register_at_fork(after_in_child=_forget)


def watch_group(group: int) -> None:
    """From now on, end a process group when this process is killed."""
    _tell_groups(f"+{group}\n")


def unwatch_group(group: int) -> None:
    """Let a process group be: it has ended."""
    if "groups" in _lines:
        _tell_groups(f"-{group}\n")


def when_killed(name: str, act: Callable[[], object]) -> None:
    """Have something done when this process is killed, in a copy of it; the same name is watched over once."""
    if name not in _lines:
        _lines[name] = _watcher(lambda reading, gone: _wait_then(reading, gone, act))


def done(name: str) -> None:
    """Let the copy of a name end without doing anything: this process has done it itself."""
    descriptor = _lines.pop(name, None)
    if descriptor is not None:
        try:
            os.write(descriptor, b"done\n")
        except OSError:
            pass
        os.close(descriptor)


def _tell_groups(line: str) -> None:
    if "groups" not in _lines:
        _lines["groups"] = _watcher(_end_groups)
    try:
        os.write(_lines["groups"], line.encode("ascii"))
    except OSError:
        pass  # the copy was ended by somebody


def _watcher(work: Callable[[int, int], None]) -> int:
    """Make a copy of this process that does nothing but the work; returns the end of the pipe that is held here.

    work -- is given the other end of the pipe, and what becomes readable when this process has gone
    """
    reading, writing = os.pipe()
    watched = os.getpid()
    child = os.fork()
    if child == 0:
        try:
            gone = _told_when_gone(watched)
            if os.fork():  # so that nobody must wait for it
                os._exit(0)
            os.setsid()
            for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP, signal.SIGPIPE):
                signal.signal(number, signal.SIG_IGN)
            kept = [fcntl.fcntl(descriptor, fcntl.F_DUPFD, 3) for descriptor in (reading, gone)]
            null = os.open(os.devnull, os.O_RDWR)
            for stream in (0, 1, 2):
                os.dup2(null, stream)
            _close_all_but(kept)
            work(*kept)
        finally:
            os._exit(0)
    os.close(reading)
    os.waitpid(child, 0)
    return writing


def _close_all_but(kept: list[int]) -> None:
    below = 3
    for descriptor in sorted(kept):
        os.closerange(below, descriptor)
        below = descriptor + 1
    os.closerange(below, min(os.sysconf("SC_OPEN_MAX"), 65536))


def _told_when_gone(process: int) -> int:
    """Open what becomes readable when a process and all that it held open has gone; a closed pipe on older systems.

    The end of the pipe is closed before the other files of a killed process: its locks may still be held then.
    """
    try:
        return os.pidfd_open(process)  # Linux 5.3
    except OSError:
        reading, writing = os.pipe()
        os.close(writing)
        return reading


def _end_groups(reading: int, _gone: int) -> None:
    groups: set[int] = set()
    for line in _lines_of(reading):
        number = int(line[1:])
        groups.add(number) if line[:1] == b"+" else groups.discard(number)
    signal.alarm(LONGEST_SECONDS)
    _send(groups, signal.SIGTERM)
    deadline = time.monotonic() + GRACE_SECONDS
    while time.monotonic() < deadline and _send(groups, 0):
        time.sleep(0.02)
    _send(groups, signal.SIGKILL)


def _send(groups: set[int], number: int) -> bool:
    """Send a signal to groups; True when one of them is there."""
    there = False
    for group in groups:
        try:
            os.killpg(group, number)
            there = True
        except OSError:
            continue
    return there


def _wait_then(reading: int, gone: int, act: Callable[[], object]) -> None:
    if b"done" not in list(_lines_of(reading)):
        signal.alarm(LONGEST_SECONDS)
        poll = select.poll()
        poll.register(gone, select.POLLIN)
        poll.poll(GONE_SECONDS * 1000)
        act()


def _lines_of(reading: int) -> list[bytes]:
    """Return the lines that were written until the other end was closed."""
    held = b""
    while chunk := os.read(reading, 4096):
        held += chunk
    return held.splitlines()
