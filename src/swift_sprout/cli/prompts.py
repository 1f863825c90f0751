"""Asking on a terminal for what a command misses; defaults are shown and taken with the enter key."""

from __future__ import annotations

import sys
from collections.abc import Callable

from ..core.errors import Problem, SproutError, WrongUse
from .progress import end


def can_ask() -> bool:
    """True when a person sits at a terminal."""
    return sys.stdin.isatty() and sys.stderr.isatty()


def ask(question: str, default: str = "", check: Callable[[str], object] | None = None) -> str:
    """Ask until the answer passes ``check``, which raises SproutError for one that does not."""
    while True:
        end()
        shown = f" [{default}]" if default else ""
        print(f"{question}{shown}: ", end="", file=sys.stderr, flush=True)
        line = sys.stdin.readline()
        if not line:
            raise KeyboardInterrupt
        answer = line.strip() or default
        try:
            if check is not None:
                check(answer)
            return answer
        except SproutError as error:
            print(f"  {error.sentence} {error.remedy}", file=sys.stderr)


def missing(command: str, options: dict[str, str]) -> WrongUse:
    """Return the error for a command without a terminal that misses what it needs: option and what it is for."""
    problems = tuple(Problem(option, purpose) for option, purpose in options.items())
    return WrongUse("options-missing", f"{command} needs more than it was given.", f"See: {command} --help", problems)
