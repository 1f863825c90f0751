"""The one family of errors: each has a code, a sentence and a remedy, and knows its exit status."""

from __future__ import annotations

from typing import NamedTuple


class Problem(NamedTuple):
    """One thing that is wrong with what was given, and where.

    place  -- file and line, option or key, e.g. ``sprout.toml:7``; empty when there is none
    what   -- one sentence
    remedy -- what to do about it; empty when the error's own remedy says it
    """

    place: str
    what: str
    remedy: str = ""


class SproutError(Exception):
    """Base of every error that reaches a user; ``exit_status`` is the program's answer to the shell."""

    exit_status = 2

    def __init__(self, code: str, sentence: str, remedy: str, problems: tuple[Problem, ...] = ()) -> None:
        super().__init__(sentence)
        self.code = code
        self.sentence = sentence
        self.remedy = remedy
        self.problems = problems


class WrongUse(SproutError):
    """What was asked for cannot be understood or is not allowed (exit 2)."""

    exit_status = 2


class HostFailed(SproutError):
    """The host could not be run (exit 3)."""

    exit_status = 3


class Refused(SproutError):
    """Doing it safely was not possible, so nothing was changed (exit 4)."""

    exit_status = 4
