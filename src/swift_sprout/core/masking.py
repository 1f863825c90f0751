"""Secrets that hosts keep in their settings, kept out of what is told.

A secret is known by its name where it is assigned, by its place in an address, and by its value once it was seen in the
host's settings.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

MASK = "•••"
SHORTEST = 6  # shorter values stand in too many harmless places
_NAME = r"[\w.-]*(?:secret|passw(?:or)?d|passphrase|pwd|token|api_?key|private_?key|auth_?key|nonce_key|salt)[\w.-]*"
_HINT = re.compile(r"(?i)secret|passw|passphrase|pwd|token|key|salt|://")
_ASSIGNED = re.compile(rf"(?i)\b({_NAME}[\"']?\]?\s*(?:=>|=|:|,)\s*)([\"'])((?:(?!\2).)+)(\2)")
_IN_LINES = re.compile(rf"(?im)^(\s*[+-]?\s*{_NAME}[ \t]*=[ \t]*)([^\s\"'(\[{{][^\s(\[{{]*)[ \t]*$")
_IN_ADDRESS = re.compile(r"([a-z][a-z0-9+.-]*://[^\s:/@'\"]*:)([^\s@/'\"]+)(@)")


def masked(text: str, known: Iterable[str] = ()) -> str:
    """Return a text with the secrets in it hidden; ``known`` are values that are hidden wherever they stand."""
    for value in known:
        text = text.replace(value, MASK)
    if _HINT.search(text):
        text = _ASSIGNED.sub(rf"\1\2{MASK}\4", text)
        text = _IN_LINES.sub(rf"\1{MASK}", text)
        text = _IN_ADDRESS.sub(rf"\1{MASK}\3", text)
    return text


def secrets_in(text: str) -> set[str]:
    """Return the values of the secrets that a text assigns, such as a file of settings."""
    found = {match.group(3) for match in _ASSIGNED.finditer(text)}
    found |= {match.group(2) for match in _IN_LINES.finditer(text)}
    found |= {match.group(2) for match in _IN_ADDRESS.finditer(text)}
    return {value for value in found if len(value) >= SHORTEST}
