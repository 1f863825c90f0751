"""Lines as the syntaxes count them.

``str.splitlines`` also ends a line at U+2028, U+2029, NEL, VT, FS and others, which no syntax here does: whoever counts
with it edits the wrong line below the first such character.
"""

from __future__ import annotations

import re

_PYTHON_LINE = re.compile(r"[^\r\n]*(?:\r\n|\r|\n)|[^\r\n]+")
_PLAIN_LINE = re.compile(r"[^\n]*\n|[^\n]+")


def python_lines(text: str) -> list[str]:
    """Return the lines of Python source with their ends: LF, CRLF and CR end one (Python 3.11, ``tokenize``)."""
    return _PYTHON_LINE.findall(text)


def plain_lines(text: str) -> list[str]:
    """Return the lines of a text with their ends where LF and CRLF end one: TOML, INI, PO, merged texts."""
    return _PLAIN_LINE.findall(text)
