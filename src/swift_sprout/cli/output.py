"""Where results go: text or JSON, as the options say."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import Any

from ..core.errors import SproutError
from ..reports.terminal import Terminal


def terminal(options: argparse.Namespace) -> Terminal:
    """Return the terminal that a command writes its text to."""
    return Terminal(colour=False if options.no_color else None, quiet=options.quiet, words=options.words)


def wants_json(options: argparse.Namespace) -> bool:
    """True when the result shall be a JSON document."""
    return bool(options.format == "json")


def document(value: dict[str, Any]) -> None:
    """Write a JSON document."""
    from ..reports.documents import dump

    print(dump(value))


@contextmanager
def progress(options: argparse.Namespace) -> Iterator[Callable[[str], None]]:
    """Yield a function that says what is being done, on one line of a terminal's error stream, cleared at the end."""
    shown = sys.stderr.isatty() and not options.quiet and options.format == "text"

    def tell(sentence: str) -> None:
        if shown:
            sys.stderr.write(f"\r\x1b[2K{sentence} …")
            sys.stderr.flush()

    try:
        yield tell
    finally:
        if shown:
            sys.stderr.write("\r\x1b[2K")
            sys.stderr.flush()


def aside(sentence: str) -> None:
    """Tell something beside the result, such as that this run waits for another one."""
    print(sentence, file=sys.stderr, flush=True)


def error(problem: SproutError, argv: Sequence[str]) -> None:
    """Write an error: as text to the error stream, as a document where JSON was asked for."""
    from ..reports import documents
    from ..reports.text import errors as errors_text

    asked = list(argv)
    if "--format=json" in asked or ("--format" in asked and "json" in asked[asked.index("--format") + 1 :][:1]):
        document(documents.error(problem))
        return
    errors_text.error(Terminal(sys.stderr, colour=False if "--no-color" in asked else None), problem)
