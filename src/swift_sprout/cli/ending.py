"""How the program ends when it is told to: at the first signal it cleans up, further ones change nothing about that."""

from __future__ import annotations

import os
import signal
from types import FrameType

ENDING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
INTERRUPTED = 130
LONGEST_SECONDS = 20  # of cleaning up: what hangs then is left to the copies that watch over it


def heed_signals() -> None:
    """Raise KeyboardInterrupt at the first signal that asks to end; one that was ignored from the start stays so."""
    for number in ENDING:
        if signal.getsignal(number) is not signal.SIG_IGN:
            signal.signal(number, _first)
    signal.signal(signal.SIGALRM, lambda *_: os._exit(INTERRUPTED))


def ignore_signals() -> None:
    """Let nothing come between any more: the program is ending by itself."""
    for number in ENDING:
        signal.signal(number, signal.SIG_IGN)


def _first(number: int, frame: FrameType | None) -> None:
    ignore_signals()
    signal.alarm(LONGEST_SECONDS)
    raise KeyboardInterrupt
