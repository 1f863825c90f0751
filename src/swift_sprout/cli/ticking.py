"""Draws what the program is doing, and for how long, on one line of the terminal, until its standard input ends.

Run as a program of its own: the one that works may copy itself at any time, which a thread that draws would not allow.
Each line of standard input is what is being done from then on. A zero byte ends it as well: copies of the program may
hold the input open.
"""

from __future__ import annotations

import os
import select
import signal
import sys
import time

END = b"\0"
PATIENCE_SECONDS = 0.5  # what is over sooner needs no sign of life


def main() -> None:
    """Draw until standard input ends, and leave nothing behind."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # told to the whole group: the program that works ends this one
    began = time.monotonic()
    told = b""
    while (left := began + PATIENCE_SECONDS - time.monotonic()) > 0:
        if select.select([0], [], [], left)[0]:
            part = os.read(0, 65536)
            if not part or END in part:
                return
            told += part
    from rich.console import Console  # costs much to import, and most commands are over by now
    from rich.progress import Progress, SpinnerColumn, TextColumn, TimeElapsedColumn

    columns = (SpinnerColumn(), TextColumn("{task.description}", markup=False), TimeElapsedColumn())
    with Progress(*columns, console=Console(stderr=True), transient=True) as shown:
        task = shown.add_task(_last_line(told))
        shown.tasks[0].start_time = shown.get_time() - PATIENCE_SECONDS
        while (part := os.read(0, 65536)) and END not in part:
            shown.update(task, description=_last_line(part))


def _last_line(told: bytes) -> str:
    lines = told.decode("utf-8", "replace").split("\n")
    return next((line for line in reversed(lines) if line), "working")


if __name__ == "__main__":
    main()
    sys.stderr.flush()
