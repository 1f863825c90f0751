"""A record's other name in the text of a brief: wherever the brief refers to the record, and nowhere else."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

from ..names import NameFamily
from .occurrences import Occurrence
from .spellings import Renaming

#  keys whose whole value is a record's name, and those whose values are lists of names
_NAMES_A_RECORD = frozenset({"on", "shows", "lists", "of", "record", "uses"})
_HEADER = re.compile(r"\s*\[\[?\s*([\w.\"' -]+?)\s*\]\]?\s*(?:#.*)?$")
_KEY = re.compile(r"\s*([\w-]+|\"[^\"]*\"|'[^']*')\s*=")
_STRING = re.compile(r"\"((?:[^\"\\]|\\.)*)\"|'([^']*)'")
_ACCESS = re.compile(r"may\s+\w+\s+")
_TARGET = re.compile(r"->>?\s*(\w[\w ]*?)\s*(?=\(|,|$)")
_RIGHTS_KEY = re.compile(r"(?:(?<=[{,])|^)\s*(\w+)\s*=")


class RenamedBrief(NamedTuple):
    """The text of a brief under a record's new name.

    text -- the brief; sure -- where it refers to the record; doubtful -- texts that hold the word
    """

    text: str
    sure: tuple[Occurrence, ...]
    doubtful: tuple[Occurrence, ...]


def rename_in_brief(text: str, place: str, renaming: Renaming, take_doubtful: bool = False) -> RenamedBrief:
    """Return a brief's text with a record renamed.

    renaming -- from the record's old name to the new one; place -- the brief's path, for the occurrences

    Titles, addresses and texts that hold the word stay, unless the doubtful are taken.
    """
    out, sure, doubtful = [], [], []
    table = key = ""
    start = 0
    for number, line in enumerate(text.splitlines(keepends=True), 1):
        header = _HEADER.match(line)
        if header:
            table, key = header[1].strip(), ""
        elif found := _KEY.match(line):
            key = found[1].strip("\"'")
        spans = dict(_references(line, table, key, renaming.old)) if not header else {}
        parts, last = [], 0
        for begins, ends in sorted(spans):
            before = line[begins:ends]
            after = _as_written(before, renaming)
            if spans[begins, ends] and " " in after:
                after = f'"{after}"'
            sure.append(Occurrence(place, number, start + begins, before, after, "brief", False))
            parts += [line[last:begins], after]
            last = ends
        changed = "".join([*parts, line[last:]])
        for one in renaming.find(line):
            if not any(begins <= one.start < ends for begins, ends in spans) and not header:
                doubtful.append(
                    Occurrence(place, number, start + one.start, one.before, one.after, "brief", not take_doubtful)
                )
                if take_doubtful:
                    changed = changed.replace(one.before, one.after, 1)
        out.append(changed)
        start += len(line)
    return RenamedBrief("".join(out), tuple(sure), tuple(doubtful))


def _references(line: str, table: str, key: str, old: NameFamily) -> Iterator[tuple[tuple[int, int], bool]]:
    """Yield where a line of a brief refers to a record: begin and end, and whether that is a key without quotes."""
    if table.endswith(".may") or key == "may":
        begins = line.index("{") if "{" in line else 0
        for found in _RIGHTS_KEY.finditer(line, begins):
            if _same(found[1], old):
                yield found.span(1), True
    for string in _STRING.finditer(line):
        group = 1 if string[1] is not None else 2
        value, at = string[group], string.start(group)
        whole = key in _NAMES_A_RECORD or (key == "name" and table == "record") or table.endswith(".may")
        if (whole or key == "may") and _same(value, old):
            yield string.span(group), False
        elif key == "access" and (right := _ACCESS.match(value)) and _same(value[right.end() :], old):
            yield (at + right.end(), at + len(value)), False
        elif key == "fields":
            for target in _TARGET.finditer(value):
                if _same(target[1], old):
                    yield (at + target.start(1), at + target.end(1)), False


def _same(text: str, name: NameFamily) -> bool:
    """True for a name in any spelling, as briefs take it."""
    return text.replace(" ", "").replace("_", "").lower() == name.camel.lower()


def _as_written(before: str, renaming: Renaming) -> str:
    """Return the new name for what refers to the old one: its title, or as the old one is spelled there."""
    if before == renaming.old.title or before.capitalize() == renaming.old.title:
        return renaming.new.title if before[:1].isupper() else renaming.new.title.lower()
    return renaming.respelled(before) or renaming.new.title
