"""Where results go: text or JSON, as the options say."""

from __future__ import annotations

import argparse
import io
import os
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, redirect_stdout
from typing import TYPE_CHECKING, Any

from ..core.errors import SproutError
from ..reports.terminal import Terminal
from .progress import end

if TYPE_CHECKING:
    from ..core.results import CheckResult


def terminal(options: argparse.Namespace) -> Terminal:
    """Return the terminal that a command writes its text to."""
    from .hints import Hints

    end()
    colour = False if options.no_color else None
    short = options.short or options.quiet
    return Terminal(colour=colour, short=short, words=options.words, spell=Hints(options).spelled)


def wants_json(options: argparse.Namespace) -> bool:
    """True when the result shall be a JSON document."""
    return bool(options.format == "json")


def document(value: dict[str, Any]) -> None:
    """Write a JSON document."""
    from ..reports.documents import dump

    end()
    print(dump(value))


def aside(sentence: str) -> None:
    """Tell something beside the result, such as that this run waits for another one."""
    end()
    print(sentence, file=sys.stderr, flush=True)


_options: list[argparse.Namespace] = []


def remember(options: argparse.Namespace) -> None:
    """Keep the options of this run, for the commands that an error names."""
    _options[:] = [options]


#  what these print is the answer that was asked for, whether all is well or not
ANSWERS = ("show", "graph", "kits", "configuration", "completion", "demo", "serve")


class _HeldBack(io.StringIO):
    """What was written to the output, for a text that may be shown on it later."""

    encoding = "utf-8"

    def isatty(self) -> bool:
        """As the output that it stands for."""
        return sys.__stdout__ is not None and sys.__stdout__.isatty()


@contextmanager
def quiet(name: str, options: argparse.Namespace) -> Iterator[list[int]]:
    """Let nothing be written while a command runs that is to be quiet, unless it does not end well.

    Yields a list that takes the command's exit status.
    """
    statuses: list[int] = []
    if not options.quiet or options.format != "text" or name in ANSWERS:
        yield statuses
        return
    written = _HeldBack()
    try:
        with redirect_stdout(written):
            yield statuses
    finally:
        if statuses != [0]:
            sys.stdout.write(written.getvalue())


#  what an exit status means, where a command does not say it more closely
MEANING = {1: "there are findings", 3: "the host could not be run"}
_why: list[str] = []


def because(sentence: str) -> None:
    """Say why the exit status will not be 0; it is written to the error stream at the end."""
    _why.append(sentence)


def check_status(result: CheckResult) -> int:
    """Return the exit status of a check, and have it explained."""
    from ..actions.checking import exit_status, why_not_well

    if why := why_not_well(result):
        because(why)
    return exit_status(result)


def said_already() -> None:
    """Say nothing of the exit status: the program that was started instead of this one has said it."""
    _why.append("")


def say_why(status: int) -> None:
    """Write to the error stream what an exit status other than 0 stands for: also where all else is quiet."""
    end()
    if "" in _why:
        return
    sentence = "; ".join(dict.fromkeys(_why)) or MEANING.get(status, "it did not go well")
    Terminal(sys.stderr).wrapped(f"exit status {status}: {sentence}", "  ", "")


def give_up() -> None:
    """Let what is still to be written go nowhere: whoever read it has gone."""
    null = os.open(os.devnull, os.O_WRONLY)
    for stream in (sys.stdout, sys.stderr):
        try:
            stream.flush()
        except (OSError, ValueError):
            os.dup2(null, stream.fileno())


def error(problem: SproutError, argv: Sequence[str]) -> None:
    """Write an error to the error stream; as a document to the output as well, where JSON was asked for."""
    from ..core.masking import known_values, masked
    from ..reports.text import errors as errors_text

    end()
    known = known_values()
    problem.sentence, problem.remedy = masked(problem.sentence, known), masked(problem.remedy, known)
    problem.problems = tuple(
        one._replace(what=masked(one.what, known), remedy=masked(one.remedy, known)) for one in problem.problems
    )
    asked = list(argv)
    try:
        if "--format=json" in asked or ("--format" in asked and "json" in asked[asked.index("--format") + 1 :][:1]):
            from ..reports import documents

            document(documents.error(problem))
            sys.stdout.flush()
    except (OSError, ValueError):
        give_up()
    try:
        from .hints import Hints

        spell = Hints(_options[0]).spelled if _options else str
        errors_text.error(Terminal(sys.stderr, colour=False if "--no-color" in asked else None, spell=spell), problem)
        sys.stderr.flush()
    except (OSError, ValueError):
        give_up()
