"""Edits of TOML by position: a table is put behind the last one of its name, all else stays as it was written."""

from __future__ import annotations

import re

import tomli

from ..core.lines import plain_lines
from .carrying import NotCarried

_HEADER = re.compile(r"[ \t]*\[\[?[ \t]*([^\]\n]+?)[ \t]*\]\]?[ \t]*(?:#.*)?$")


def add_table(text: str, kind: str, table: str) -> str:
    """Put a ``[[kind]]`` table into a text, behind the last of its kind, else at the end.

    table -- its source, header included

    A text that holds an equal table is returned as it is. Raises NotCarried, naming the line, when it does not parse.
    """
    before = read(text)
    wanted = tomli.loads(table)[kind][0]
    held = before.get(kind, [])
    if not isinstance(held, list):
        raise NotCarried(0, f"{kind} is no list of tables in it")
    if wanted in held:
        return text
    lines = plain_lines(text)
    newline = "\r\n" if text.count("\r\n") * 2 > text.count("\n") else "\n"
    block = table.rstrip("\n").replace("\n", newline) + newline
    expected = before | {kind: [*held, wanted]}
    for at in (_end_of_last(lines, kind), len(lines)):
        if at is None:
            continue
        head = "".join(lines[:at])
        joint = "" if not head or head.endswith("\n") else newline
        tail = "".join(lines[at:])
        gap = newline if head.strip() else ""
        text_now = head + joint + gap + block + tail
        try:
            if tomli.loads(text_now) == expected:
                return text_now
        except tomli.TOMLDecodeError:
            continue
    raise NotCarried(0, f"no place for a table of {kind} was found")


def read(text: str) -> dict[str, object]:
    """Read a text; raises NotCarried, naming the line."""
    try:
        return tomli.loads(text)
    except tomli.TOMLDecodeError as error:
        where = re.search(r"at line (\d+)", str(error))
        raise NotCarried(int(where.group(1)) if where else 0, f"it is not TOML: {error}") from None


def _end_of_last(lines: list[str], kind: str) -> int | None:
    """Return the line behind the last table of a kind: behind its last key, before what is said of the next table."""
    end: int | None = None
    inside = False
    for number, line in enumerate(lines):
        header = _HEADER.match(line.rstrip("\r\n"))
        if header:
            name = header.group(1).strip("\"' ")
            inside = name == kind or (inside and name.startswith(kind + "."))
            end = number + 1 if inside else end
        elif inside and line.strip() and not line.lstrip().startswith("#"):
            end = number + 1
    return end
