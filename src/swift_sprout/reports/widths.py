"""How wide texts are on a terminal, and where a line of them may be broken."""

from __future__ import annotations

import re
import unicodedata

#  between words, and inside a path behind what parts it: a name or a number is never torn
_PIECES = re.compile(r"\s+|/*[^\s/]+/*|/+")


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


def least_width(text: str) -> int:
    """Return the columns that a text needs where it is broken wherever it may be."""
    return max((width(piece) for piece in _PIECES.findall(text) if not piece.isspace()), default=0)


def broken(text: str, columns: int, whole_paths: bool = False) -> list[str]:
    """Break a text into lines of some columns, between words and inside paths; a longer piece stands on its own.

    whole_paths -- break only those paths that are longer than a line, as in a sentence
    """
    words = re.findall(r"\s+|\S+", text)
    lines = [""]
    kept = columns if whole_paths else 0
    pieces = [piece for word in words for piece in ([word] if width(word) <= kept else _PIECES.findall(word))]
    for piece in pieces:
        if not piece.isspace() and lines[-1].strip() and width(lines[-1] + piece) > columns:
            lines[-1] = lines[-1].rstrip()
            lines.append("")
        if lines[-1] or not piece.isspace():
            lines[-1] += piece
    return [*lines[:-1], lines[-1].rstrip()]
