"""Text of others made harmless: signs that steer a terminal, or turn the direction of reading, are spelled out."""

from __future__ import annotations

import re
import unicodedata

_NOT_PLAIN = re.compile(r"[^\x20-\x7e\n]")


def spelled_out(text: str) -> str:
    """Return a text in which control characters, direction marks and broken letters are escaped."""
    if text.isprintable():
        return text
    return "".join(
        letter
        if letter.isprintable() or letter in "\n\t" or unicodedata.category(letter) == "Zs"
        else ascii(letter)[1:-1]
        for letter in text
    )


def plain_json(text: str) -> str:
    """Return a JSON text that says the same, with the same signs escaped: whoever prints it is not steered by it."""
    if text.isascii() and "\x7f" not in text:
        return text

    def escaped(found: re.Match[str]) -> str:
        letter = found[0]
        if letter.isprintable():
            return letter
        units = letter.encode("utf-16-be", "surrogatepass")
        return "".join(f"\\u{units[at]:02x}{units[at + 1]:02x}" for at in range(0, len(units), 2))

    return _NOT_PLAIN.sub(escaped, text)
