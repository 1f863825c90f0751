"""A line for one more module in a list that has a line for each: where it goes, and what parts it from the next."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence

from .marks import OPENS, Filling, Template

_MARKS = re.compile(f"{OPENS}[^⟧]*⟧")
_NAME = r"[\w. -]+?"


def with_entry(path: str, text: str, marked_line: str, filling: Filling) -> str | None:
    """Return a text with one more line behind the last that is alike; None where there is none, or it would break.

    path        -- of the file, by whose ending it is known how it is tried
    marked_line -- the line as the pattern has it
    """
    new = _bare(Template(marked_line).filled(filling))
    lines = text.splitlines(keepends=True)
    pieces = [
        re.escape(one.strip() if number == 0 else one) for number, one in enumerate(_MARKS.split(_bare(marked_line)))
    ]
    alike = re.compile(_NAME.join(pieces))
    sisters = [number for number, line in enumerate(lines) if alike.fullmatch(_bare(line).strip())]
    if not sisters:
        return None
    if new.strip() in (_bare(line).strip() for line in lines):
        return text
    return _put(path, text, lines, sisters, new.strip(), marked_line)


def _put(path: str, text: str, lines: Sequence[str], sisters: Sequence[int], new: str, marked_line: str) -> str | None:
    last = lines[sisters[-1]]
    body = last.rstrip("\r\n")
    newline = last[len(body) :] or ("\r\n" if "\r\n" in text else "\n")
    indent = body[: len(body) - len(body.lstrip())]
    parts = {_parting(lines[number]) for number in sisters} | {_parting(marked_line)}
    parting = max(parts, key=len)
    ends_bare = not _parting(body) and bool(parting)  # the last of a list, which nothing parts from a next one
    before = f"{body.rstrip()}{parting}{newline}" if ends_bare else f"{body}{newline}"
    after = f"{indent}{new}{'' if ends_bare else parting}{last[len(body) :] or newline}"
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
            compile(text, path, "exec", dont_inherit=True)
    except (ValueError, SyntaxError):
        return False
    return True
