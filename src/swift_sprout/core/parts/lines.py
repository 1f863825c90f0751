"""A part as one line of the command line: ``HEAD: REST, key value, key value``."""

from __future__ import annotations

from typing import Any

from ..errors import WrongUse
from ..fields import split_outside
from ..nearest import did_you_mean

_YES_NO = {"yes": True, "true": True, "no": False, "false": False}


def read_line(kind: str, head: str, rest: str, shape: dict[str, str], text: str) -> dict[str, Any]:
    """Read a line into the data of a part.

    head, rest -- the keys that take what stands before and after the first colon; an empty ``rest`` takes none

    Keys of the sorts ``list`` and ``rows`` may come several times. Raises WrongUse.
    """
    first, *pieces = [piece.strip() for piece in split_outside(text, ",")]
    before, colon, after = _parted(first) if rest else (first, "", "")
    entry: dict[str, Any] = {}
    _put(kind, entry, head, shape, before)
    if colon and after.strip():
        _put(kind, entry, rest, shape, after)
    for piece in pieces:
        word, _, value = piece.partition(" ")
        if word not in shape:
            raise WrongUse(
                "part-option",
                f"The {kind} {plain(before)!r} has the unknown option {piece!r}.",
                did_you_mean(word, shape),
            )
        _put(kind, entry, word, shape, value)
    return entry


def plain(text: str) -> str:
    """Take the quotes from around a text; a doubled quote inside stands for one."""
    text = text.strip()
    if len(text) > 1 and text[0] == text[-1] == '"':
        text = text[1:-1]
    return text.replace('""', '"')


def _parted(first: str) -> tuple[str, str, str]:
    """Part at the first colon outside quotes and braces, so that a path's parameters keep theirs."""
    depth, quoted = 0, False
    for index, letter in enumerate(first):
        quoted ^= letter == '"'
        depth += {"{": 1, "}": -1}.get(letter, 0)
        if letter == ":" and not depth and not quoted:
            return first[:index], ":", first[index + 1 :]
    return first, "", ""


def _put(kind: str, entry: dict[str, Any], key: str, shape: dict[str, str], text: str) -> None:
    value, sort = plain(text), shape[key]
    if not value and sort != "text":
        raise WrongUse("part-option", f"The {kind} has {key!r} without a value.", f'Write "{key} …".')
    if sort == "list":
        entry.setdefault(key, []).append(value)
    elif sort == "number":
        if not value.lstrip("-").isdigit():
            raise WrongUse("part-option", f"{key} {value!r} is no whole number.", f'Write "{key} 10".')
        entry[key] = int(value)
    elif sort == "yes/no":
        if value.lower() not in _YES_NO:
            raise WrongUse("part-option", f"{key} {value!r} is neither yes nor no.", f'Write "{key} yes".')
        entry[key] = _YES_NO[value.lower()]
    elif sort == "table":
        name, equals, said = value.partition("=")
        if not equals:
            raise WrongUse("part-option", f"{key} {value!r} has no equals sign.", f'Write "{key} NAME=VALUE".')
        entry.setdefault(key, {})[name.strip()] = said.strip()
    elif sort == "rows":
        entry.setdefault(key, []).append(_row(key, value))
    elif key in entry:
        raise WrongUse("part-option", f"The {kind} has {key!r} twice.", "Say it once.")
    else:
        entry[key] = value


def _row(key: str, text: str) -> dict[str, str]:
    row: dict[str, str] = {}
    for pair in split_outside(text, ";"):
        name, equals, value = pair.partition("=")
        if not equals:
            raise WrongUse(
                "part-option",
                f"{key} {text!r} has no equals sign in {pair.strip()!r}.",
                f'Write "{key} name=A1; depth_m=4".',
            )
        row[name.strip()] = plain(value)
    return row
