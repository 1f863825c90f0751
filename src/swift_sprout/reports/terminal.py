"""Writing to a terminal, a file or a pipe: colour and signs only where they can be shown."""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Callable, Container, Iterable, Sequence
from typing import TextIO

from ..core.masking import masked
from ..core.plaintext import spelled_out
from .widths import broken, width

_STYLES = {
    "good": "32",
    "bad": "31",
    "warn": "33",
    "dim": "2",
    "strong": "1",
    "add": "32",
    "remove": "31",
    "head": "36",
}
#  styles, and the beginning and end of a link (OSC 8)
_STYLED = rf"(\x1b\[(?:0|{'|'.join(_STYLES.values())})m|\x1b\]8;;[!-~]*\x1b\\)"
_PLAIN_SIGNS = str.maketrans(
    {"✓": "+", "✗": "X", "·": ".", "–": "-", "○": "o", "→": ">", "│": "|", "├": "|", "└": "`", "─": "-", "…": "."}
)


class Terminal:
    """A place to write text to; ``colour`` and ``signs`` None mean: if it can show them.

    short -- leave out diffs and what is known already
    words -- for those who listen: words in the place of signs, and a sentence in that of each row of a table
    spell -- spells the commands in a text so that they can be pasted
    """

    def __init__(
        self,
        stream: TextIO | None = None,
        colour: bool | None = None,
        short: bool = False,
        signs: bool | None = None,
        words: bool = False,
        spell: Callable[[str], str] = str,
    ) -> None:
        self.stream = stream or sys.stdout
        shown = self.stream.isatty() and not os.environ.get("NO_COLOR") and os.environ.get("TERM") != "dumb"
        self.colour = shown if colour is None else colour
        self.short = short
        self.words = words
        self._spell = spell
        encoding = (getattr(self.stream, "encoding", None) or "ascii").lower().replace("-", "")
        self._signs = encoding.startswith("utf") if signs is None else signs
        self.width = min(screen_width(), 120)
        self._links = {_link("")}  # those that were made here: what a host says may hold others

    def style(self, text: str, name: str) -> str:
        """Return a text in a style, or as it is where there is no colour."""
        return f"\x1b[{_STYLES[name]}m{text}\x1b[0m" if self.colour and text else text

    def link(self, text: str, address: str) -> str:
        """Return a text that leads to an address where the terminal can, or as it is."""
        can = self.colour and address.isascii() and address.isprintable() and os.environ.get("TERM") != "linux"
        if not can or not address:
            return text
        self._links.add(_link(address))
        return f"{_link(address)}{text}{_link('')}"

    def line(self, text: str = "") -> None:
        """Write one line."""
        if not text.isprintable():
            text = harmless(text, self.colour, self._links)
        text = masked(text)
        if not self._signs:
            text = text.translate(_PLAIN_SIGNS).encode("ascii", "replace").decode("ascii")
        self.stream.write(text + "\n")

    def lines(self, texts: Iterable[str]) -> None:
        """Write lines."""
        for text in texts:
            self.line(text)

    def wrapped(self, text: str, indent: str = "", first: str | None = None, style: str = "") -> None:
        """Write a sentence, broken at the terminal's width; ``first`` stands before its first line."""
        begin = indent if first is None else first
        space = self.width - width(re.sub(_STYLED, "", begin) if self.colour else begin)
        sentence, at_its_end, command = text.rpartition("swift-sprout ")
        if at_its_end and not command.endswith(".") and (not sentence or sentence.endswith(": ")):
            if sentence and width(self._spell(text)) <= space:
                self.line(begin + self._spell(text))
                return
            if sentence:
                self.wrapped(sentence.rstrip(), indent, first, style)
            #  it can be pasted only in one piece
            self.command(at_its_end + command, indent if sentence else begin)
            return
        text = self._spell(text) if at_its_end else text
        if text.isprintable() and width(text) <= space:
            self.line((begin + (self.style(text, style) if style else text)).rstrip())
            return
        lines = broken(text, min(space, self.width - width(indent)), whole_paths=True)
        for number, line in enumerate(lines):
            self.line((indent if number else begin) + (self.style(line, style) if style else line))

    def command(self, text: str, indent: str = "  ") -> None:
        """Write a command for the reader to paste: in one line, however long it is."""
        self.line(indent + self._spell(text))

    def path(self, path: str) -> str:
        """Return a path as people write it: from their home where it lies there."""
        home = os.path.expanduser("~")
        return "~" + path[len(home) :] if home != "/" and path.startswith(home + os.sep) else path

    def sentences(self, head: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
        """Write each row as a sentence that names its columns; empty cells are left out."""
        for row in rows:
            self.line("; ".join(f"{name}: {cell}" for name, cell in zip(head, row, strict=True) if cell) + ".")

    def grid(self, head: Sequence[str], rows: Sequence[Sequence[str]], spare: Sequence[str] = ()) -> None:
        """Write a table that fits the width; ``spare`` are columns that are left out where there is no room."""
        if self.words:
            self.sentences(head, rows)
            return
        from .tables import laid_out  # most commands print no table

        first, *lines = laid_out(head, rows, self.width, spare)
        self.line(self.style(first, "head"))
        self.lines(lines)


def _link(address: str) -> str:
    return f"\x1b]8;;{address}\x1b\\"


def harmless(text: str, styled: bool = False, links: Container[str] = ()) -> str:
    """Return a text in which signs that steer a terminal, or turn the direction of reading, are spelled out.

    styled -- whether the sequences that ``style`` makes stay; links -- the links that stay
    """
    pieces = re.split(_STYLED, text) if styled else [text]
    return "".join(
        piece if number % 2 and (not piece.startswith("\x1b]") or piece in links) else spelled_out(piece)
        for number, piece in enumerate(pieces)
    )


def screen_width() -> int:
    """Return the width of the terminal: as the environment says it, as the terminal does, or 80."""
    said = os.environ.get("COLUMNS", "")
    if said.isdigit() and int(said):
        return int(said)
    try:
        return os.get_terminal_size(sys.__stdout__.fileno()).columns or 80  # type: ignore[union-attr]
    except (OSError, ValueError, AttributeError):
        return 80
