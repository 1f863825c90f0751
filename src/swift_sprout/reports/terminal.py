"""Writing to a terminal, a file or a pipe: colour and signs only where they can be shown."""

from __future__ import annotations

import os
import re
import sys
import unicodedata
from collections.abc import Iterable, Sequence
from typing import TextIO

from ..core.masking import masked
from ..core.plaintext import spelled_out

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
_STYLED = rf"(\x1b\[(?:0|{'|'.join(_STYLES.values())})m)"
_PLAIN_SIGNS = str.maketrans(
    {"✓": "+", "✗": "X", "·": ".", "–": "-", "○": "o", "→": ">", "│": "|", "├": "|", "└": "`", "─": "-", "…": "."}
)


class Terminal:
    """A place to write text to; ``colour`` and ``signs`` None mean: if it can show them.

    words -- for those who listen: words in the place of signs, and a sentence in that of each row of a table
    """

    def __init__(
        self,
        stream: TextIO | None = None,
        colour: bool | None = None,
        quiet: bool = False,
        signs: bool | None = None,
        words: bool = False,
    ) -> None:
        self.stream = stream or sys.stdout
        shown = self.stream.isatty() and not os.environ.get("NO_COLOR") and os.environ.get("TERM") != "dumb"
        self.colour = shown if colour is None else colour
        self.quiet = quiet
        self.words = words
        encoding = (getattr(self.stream, "encoding", None) or "ascii").lower().replace("-", "")
        self._signs = encoding.startswith("utf") if signs is None else signs
        self.width = min(screen_width(), 120)

    def style(self, text: str, name: str) -> str:
        """Return a text in a style, or as it is where there is no colour."""
        return f"\x1b[{_STYLES[name]}m{text}\x1b[0m" if self.colour and text else text

    def line(self, text: str = "") -> None:
        """Write one line."""
        if not text.isprintable():
            text = harmless(text, self.colour)
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
        if text.isprintable() and width(text) <= space:
            self.line((begin + (self.style(text, style) if style else text)).rstrip())
            return
        import textwrap  # costs much to import, and most sentences fit

        lines = textwrap.wrap(
            text,
            min(space, self.width - width(indent)),
            break_long_words=False,
            break_on_hyphens=False,
        )
        for number, line in enumerate(lines):
            self.line((indent if number else begin) + (self.style(line, style) if style else line))

    def path(self, path: str) -> str:
        """Return a path as people write it: from their home where it lies there."""
        home = os.path.expanduser("~")
        return "~" + path[len(home) :] if home != "/" and path.startswith(home + os.sep) else path

    def table(self, head: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
        """Write a table; the last column takes what is left of the width."""
        if self.words:
            self.sentences(head, rows)
            return
        widths = [max(width(row[column]) for row in (head, *rows)) for column in range(len(head))]
        for number, row in enumerate((head, *rows)):
            cells = [cell + " " * (widths[column] - width(cell)) for column, cell in enumerate(row)]
            text = "  ".join(cells).rstrip()
            self.line(self.style(text, "head") if number == 0 else text)

    def sentences(self, head: Sequence[str], rows: Sequence[Sequence[str]]) -> None:
        """Write each row as a sentence that names its columns; empty cells are left out."""
        for row in rows:
            self.line("; ".join(f"{name}: {cell}" for name, cell in zip(head, row, strict=True) if cell) + ".")

    def grid(self, head: Sequence[str], rows: Sequence[Sequence[str]], spare: Sequence[str] = ()) -> None:
        """Write a table that fits the width: the widest columns are broken over lines, empty ones left out.

        spare -- columns that are left out, in this order, before a word of any is broken
        """
        if self.words:
            self.sentences(head, rows)
            return
        import textwrap

        shown = [column for column in range(len(head)) if any(row[column] for row in rows)]
        widths = self._widths(head, rows, shown)
        for name in spare:
            if widths is None and head.index(name) in shown:
                shown.remove(head.index(name))
                widths = self._widths(head, rows, shown)
        if widths is None:
            widths = {column: max(width(row[column]) for row in (head, *rows)) for column in shown}
            while self._too_wide(widths):
                widest = max(shown, key=lambda column: widths[column])
                if widths[widest] <= 12:
                    break
                widths[widest] -= 1
        for number, row in enumerate((head, *rows)):
            cells = {column: textwrap.wrap(row[column], widths[column]) or [""] for column in shown}
            for level in range(max(len(cell) for cell in cells.values())):
                pieces = [cells[column][level] if level < len(cells[column]) else "" for column in shown]
                padded = [
                    piece + " " * (widths[column] - width(piece)) for piece, column in zip(pieces, shown, strict=True)
                ]
                text = "  ".join(padded).rstrip()
                self.line(self.style(text, "head") if number == 0 else text)

    def _widths(
        self, head: Sequence[str], rows: Sequence[Sequence[str]], shown: Sequence[int]
    ) -> dict[int, int] | None:
        """Return widths of columns that fit together and break no word; None where there are none."""
        texts = {column: [row[column] for row in (head, *rows)] for column in shown}
        widths = {column: max(map(width, told)) for column, told in texts.items()}
        least = {
            column: max(width(word) for text in told for word in text.split() or [""]) for column, told in texts.items()
        }
        while self._too_wide(widths):
            spacious = [column for column in shown if widths[column] > least[column]]
            if not spacious:
                return None
            widths[max(spacious, key=lambda column: widths[column])] -= 1
        return widths

    def _too_wide(self, widths: dict[int, int]) -> bool:
        return sum(widths.values()) + 2 * (len(widths) - 1) > self.width


def harmless(text: str, styled: bool = False) -> str:
    """Return a text in which signs that steer a terminal, or turn the direction of reading, are spelled out.

    styled -- whether the sequences that ``style`` makes stay
    """
    pieces = re.split(_STYLED, text) if styled else [text]
    return "".join(piece if number % 2 else spelled_out(piece) for number, piece in enumerate(pieces))


def screen_width() -> int:
    """Return the width of the terminal: as the environment says it, as the terminal does, or 80."""
    said = os.environ.get("COLUMNS", "")
    if said.isdigit() and int(said):
        return int(said)
    try:
        return os.get_terminal_size(sys.__stdout__.fileno()).columns or 80  # type: ignore[union-attr]
    except (OSError, ValueError, AttributeError):
        return 80


def width(text: str) -> int:
    """Return how many columns a text takes."""
    if text.isascii() and text.isprintable():
        return len(text)
    columns = 0
    for letter in text:
        if unicodedata.combining(letter) or unicodedata.category(letter) in ("Cf", "Me"):
            continue
        columns += 2 if unicodedata.east_asian_width(letter) in "WF" else 1
    return columns
