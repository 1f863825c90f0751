"""Secrets that hosts keep in their settings, kept out of what is told.

A secret is known by its name where it is assigned, by its place in an address, and by its value once it was seen in the
host's settings.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import cache

MASK = "•••"
SHORTEST = 6  # shorter values stand in too many harmless places
_NAME = r"[\w.-]*(?:secret|passw(?:or)?d|passphrase|pwd|token|api_?key|private_?key|auth_?key|nonce_key|salt)[\w.-]*"
#  one of these is in every text that has to be looked at more closely: patterns take long to compile
_SIGNS = ("secret", "passw", "passphrase", "pwd", "token", "key", "salt", "://")


@cache
def _patterns() -> tuple[re.Pattern[str], re.Pattern[str], re.Pattern[str]]:
    """Return what finds values in quotes, on lines of their own, and in addresses."""
    return (
        re.compile(rf"(?i)\b({_NAME}[\"']?\]?\s*(?:=>|=|:|,)\s*)([\"'])((?:(?!\2).)+)(\2)"),
        re.compile(rf"(?im)^(\s*[+-]?\s*{_NAME}[ \t]*=[ \t]*)([^\s\"'(\[{{][^\s(\[{{]*)[ \t]*$"),
        re.compile(r"([a-z][a-z0-9+.-]*://[^\s:/@'\"]*:)([^\s@/'\"]+)(@)"),
    )


def masked(text: str, known: Iterable[str] = ()) -> str:
    """Return a text with the secrets in it hidden; ``known`` are values that are hidden wherever they stand."""
    for value in known:
        text = text.replace(value, MASK)
    plain = text.lower()
    if any(sign in plain for sign in _SIGNS):
        assigned, in_lines, in_address = _patterns()
        text = assigned.sub(rf"\1\2{MASK}\4", text)
        text = in_lines.sub(rf"\1{MASK}", text)
        text = in_address.sub(rf"\1{MASK}\3", text)
    return text


def secrets_in(text: str) -> set[str]:
    """Return the values of the secrets that a text assigns, such as a file of settings."""
    assigned, in_lines, in_address = _patterns()
    found = {match.group(3) for match in assigned.finditer(text)}
    found |= {match.group(2) for match in in_lines.finditer(text)}
    found |= {match.group(2) for match in in_address.finditer(text)}
    return {value for value in found if len(value) >= SHORTEST}
