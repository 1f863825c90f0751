"""On which line of a TOML text a key stands: the standard reader tells values, not places."""

from __future__ import annotations

import re

_HEADER = r"\s*(\[\[?)\s*([^\]]+?)\s*\]\]?\s*(#.*)?$"  # compiled when a place is asked for, which is seldom


def line_of(text: str, path: tuple[str | int, ...]) -> int:
    """Return the line (from 1) of a key such as ``("record", 1, "fields")``; 0 when it is not found.

    A path that goes on inside a key's value gives the key's own line, or that of the value in a list over lines.
    """
    table, index, rest = str(path[0]), 0, list(path[1:])
    if rest and isinstance(rest[0], int):
        index = rest.pop(0)  # type: ignore[assignment]
    seen = -1
    inside = False
    header_line = 0
    key = str(rest[0]) if rest else ""
    for number, line in enumerate(text.split("\n"), 1):
        header = re.match(_HEADER, line)
        if header:
            inside = False
            if header.group(2).strip("\"' ") == table:
                seen += 1
                inside = seen == index
                if inside:
                    header_line = number
                    if not key:
                        return number
        elif (inside and re.match(rf"\s*[\"']?{re.escape(key)}[\"']?\s*=", line)) or (
            not header_line and not rest and re.match(rf"\s*[\"']?{re.escape(table)}[\"']?\s*=", line)
        ):
            return number
    return header_line
