"""Signs of life: while a command works, a person at a terminal sees what it does and for how long.

They are gone as soon as the command writes anything; pipes and files never get them.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import subprocess
import sys
from pathlib import Path

from ..running.activity import listen
from .ticking import END

TICKING = Path(__file__).parent / "ticking.py"
#  these write as they go, or talk with the person
WITHOUT = ("serve", "demo", "completion", "kits")
_ticking: list[subprocess.Popen[bytes]] = []


def begin(name: str, options: argparse.Namespace) -> None:
    """Show from now on what is being done, where somebody sees it: on a terminal, unless it is to be quiet."""
    if name in WITHOUT or options.quiet or options.format != "text" or not sys.stderr.isatty():
        return
    if options.words:
        listen(_speak)
        return
    if os.environ.get("TERM", "dumb") == "dumb":  # which cannot take away what it has shown
        return
    #  -P: nothing in the folder of a host is taken for a module
    command = [sys.executable, "-P", str(TICKING)]
    with contextlib.suppress(OSError):  # a sign that cannot be given is no reason to stop
        _ticking.append(subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL))
        listen(_show)


def end() -> None:
    """Take the sign away, before anything else is written."""
    listen(None)
    while _ticking:
        process = _ticking.pop()
        assert process.stdin is not None
        with contextlib.suppress(OSError):
            process.stdin.write(END)  # a copy of this program may hold its input open
            process.stdin.close()
        process.wait()


def _show(what: str) -> None:
    stdin = _ticking[-1].stdin if _ticking else None
    if stdin is not None:
        with contextlib.suppress(OSError):
            stdin.write(what.encode() + b"\n")
            stdin.flush()


def _speak(what: str) -> None:
    print(f"{what}.", file=sys.stderr, flush=True)
