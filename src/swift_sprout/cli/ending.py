"""How the program ends when it is told to: at the first signal it cleans up, further ones change nothing about that."""

from __future__ import annotations

import os
import signal
import sys
from types import FrameType

ENDING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
INTERRUPTED = 130
AGAIN_SECONDS = 0.02
LONGEST_SECONDS = 20  # of cleaning up: what hangs then is left to the copies that watch over it


def heed_signals() -> None:
    """Raise KeyboardInterrupt at the first signal that asks to end; one that was ignored from the start stays so."""
    for number in ENDING:
        if signal.getsignal(number) is not signal.SIG_IGN:
            signal.signal(number, _first)
    signal.signal(signal.SIGALRM, _give_up)
    sys.unraisablehook = _swallowed


def ignore_signals() -> None:
    """Let nothing come between any more: the program is ending by itself."""
    for number in ENDING:
        signal.signal(number, signal.SIG_IGN)


def _first(number: int, frame: FrameType | None) -> None:
    ignore_signals()
    signal.alarm(LONGEST_SECONDS)
    raise KeyboardInterrupt


def _give_up(number: int, frame: FrameType | None) -> None:
    os._exit(INTERRUPTED)


def _swallowed(unraisable: sys.UnraisableHookArgs) -> None:
    """Let an interruption come again that met code whose exceptions go nowhere, such as that of a finaliser."""
    if unraisable.exc_type is KeyboardInterrupt:
        signal.signal(signal.SIGALRM, _once_more)
        signal.setitimer(signal.ITIMER_REAL, AGAIN_SECONDS)
    else:
        sys.__unraisablehook__(unraisable)


def _once_more(number: int, frame: FrameType | None) -> None:
    signal.signal(signal.SIGALRM, _give_up)
    _first(number, frame)
