"""A line for one more module in a list that has a line for each: where it goes, and what parts it from the next."""

from __future__ import annotations

import ast
import json
import re
from collections.abc import Sequence

from ..lines import plain_lines
from .marks import OPENS, Filling, Template

_QUOTED = re.compile(r"\"[^\"\\]*(?:\\.[^\"\\]*)*\"|'[^'\\]*(?:\\.[^'\\]*)*'")
_GOES_ON = ("\\", "|", ">", "+", '"""', "'''")  # how a line ends that the next belongs to
_PAIRS = (("(", ")"), ("[", "]"), ("{", "}"))
_MARKS = re.compile(f"{OPENS}[^⟧]*⟧")
_NAME = r"\w(?:[\w. -]*?\w)?"


def stands_alone(line: str) -> bool:
    """True for a line that is whole by itself: nothing is opened in it that another line closes."""
    code = _QUOTED.sub("", line)
    return not line.rstrip().endswith(_GOES_ON) and all(code.count(one) == code.count(other) for one, other in _PAIRS)


def with_entry(path: str, text: str, marked_line: str, filling: Filling) -> str | None:
    """Return a text with one more line behind the last that is alike; None where there is none, or it would break.

    Alike is a line with other names in it that stands as far to the right: not one within a condition.

    path        -- of the file, by whose ending it is known how it is tried
    marked_line -- the line as the pattern has it
    """
    new = _bare(Template(marked_line).filled(filling))
    lines = plain_lines(text)
    alike = re.compile(_NAME.join(map(re.escape, _MARKS.split(_bare(marked_line)))))
    sisters = [number for number, line in enumerate(lines) if alike.fullmatch(_bare(line))]
    if not sisters:
        return None
    if new in map(_bare, lines):
        return text
    return _put(path, text, lines, sisters, new, marked_line)


def _put(path: str, text: str, lines: Sequence[str], sisters: Sequence[int], new: str, marked_line: str) -> str | None:
    last = lines[sisters[-1]]
    body = last.rstrip("\r\n")
    newline = last[len(body) :] or ("\r\n" if "\r\n" in text else "\n")
    parts = {_parting(lines[number]) for number in sisters} | {_parting(marked_line)}
    parting = max(parts, key=len)
    ends_bare = not _parting(body) and bool(parting)  # the last of a list, which nothing parts from a next one
    before = f"{body.rstrip()}{parting}{newline}" if ends_bare else f"{body}{newline}"
    after = f"{new}{'' if ends_bare else parting}{last[len(body) :] or newline}"
    done = "".join([*lines[: sisters[-1]], before, after, *lines[sisters[-1] + 1 :]])
    return done if _parses(path, done) or not _parses(path, text) else None


def _bare(line: str) -> str:
    return line.rstrip().rstrip(",;")


def _parting(line: str) -> str:
    stripped = line.rstrip()
    return stripped[len(stripped.rstrip(",;")) :]


def _parses(path: str, text: str) -> bool:
    try:
        if path.endswith(".json"):
            json.loads(text)
        elif path.endswith(".py"):
            ast.parse(text)
    except (ValueError, SyntaxError):
        return False
    return True
