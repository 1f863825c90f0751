"""``python -m swift_sprout`` and the ``swift-sprout`` script."""

from __future__ import annotations

import os
import sys

from . import __version__


def run() -> None:
    """Run the program and end with its exit status."""
    if sys.argv[1:] == ["--version"]:  # answered here, so that asking costs next to nothing
        print(f"swift-sprout {__version__}")
        return
    try:
        _open_streams()
        from .cli.ending import heed_signals, ignore_signals

        heed_signals()
        from .cli.main import main

        status = main(sys.argv[1:])
        ignore_signals()
    except KeyboardInterrupt:  # before, or after, there was anything to clean up
        status = 130
    os._exit(_ended(status))  # taking the interpreter apart would cost more than some commands do


def _open_streams() -> None:
    """Let what is written to a closed stream go nowhere, and not into a file that is opened later."""
    for number in range(3):
        try:
            os.fstat(number)
        except OSError:
            os.open(os.devnull, os.O_RDWR)  # the lowest number that is free: this one
    for name in ("stdout", "stderr"):
        if getattr(sys, name) is None:
            setattr(sys, name, open(os.devnull, "w", encoding="utf-8"))  # noqa: SIM115  # as long as the program


def _ended(status: int) -> int:
    """End what is still at work, and return the exit status."""
    if "swift_sprout.running.process" in sys.modules:
        from .running.process import end_all

        end_all()
    for stream in (sys.stdout, sys.stderr):
        try:
            stream.flush()
        except (OSError, ValueError):
            continue  # whoever read it has gone; ``main`` has told what could not be written
    if "swift_sprout.running.copies" in sys.modules:
        from .running.copies import end_copies

        end_copies()
    return status


if __name__ == "__main__":
    run()
