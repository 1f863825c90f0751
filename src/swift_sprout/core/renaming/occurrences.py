"""Occurrences of a name in the files of a host: what each is, and whether it surely means the module."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import PurePosixPath
from typing import NamedTuple

from .spellings import Renaming, Spelling

#  what a file is, by its ending: the word that a plan says of an occurrence in it
_KINDS = {
    ".md": "documentation", ".rst": "documentation", ".txt": "documentation",
    ".html": "template", ".htm": "template", ".twig": "template", ".jinja": "template", ".j2": "template",
    ".po": "catalogue", ".pot": "catalogue",
    ".json": "data", ".xml": "data", ".csv": "data", ".yaml": "data", ".yml": "data", ".sql": "data",
    ".toml": "configuration", ".cfg": "configuration", ".ini": "configuration", ".conf": "configuration",
    ".css": "style", ".scss": "style", ".svg": "picture",
}  # fmt: skip
_IMPORT = re.compile(r"^\s*(?:from|import|require|require_once|use|include)\b|\brequire\(|\bimport\(")
#  a line of code up to the name of what it imports, with the packages that hold it
BEGINS_IMPORT = re.compile(r"^\s*(?:from|import|use)\s+[\w.\\]*$")
_DOTS = re.compile(r"^\s*from\s+(\.+)$")  # a relative import, up to the first name
_QUOTES = "'\"`"
_WITH_IDENTIFIERS = ("code", "import", "template", "data")
_IN_DOTTED_PATH = re.compile(r"['\"][\w.]*\.$")
_NAMES_A_FIELD = re.compile(r"\b(?:name|field_name|old_name|new_name)\s*=\s*['\"]$")
_FIELD_ENDING = re.compile(r"(?:_id\b|__\w|(?!\w))")


class Occurrence(NamedTuple):
    """One place where a name stands.

    path     -- of the file, relative to the host's root; line -- counted from 1
    kind     -- what it is: ``import``, ``registration``, ``template``, …
    doubtful -- True where it may as well be a common word
    """

    path: str
    line: int
    start: int
    before: str
    after: str
    kind: str
    doubtful: bool


def occurrences(
    path: str,
    text: str,
    renaming: Renaming,
    inside: bool,
    registers: frozenset[int] = frozenset(),
    means_module: re.Pattern[str] | None = None,
    others_word: bool = False,
    depth: int = 0,
) -> list[Occurrence]:
    """Return the occurrences in one file.

    inside       -- True for a file of the module itself
    registers    -- lines by which the host registers the module
    means_module -- what is found in lines of code where the name can only mean the module
    others_word  -- True in a file elsewhere, where another module has a field or variable of that name
    depth        -- how many folders of the module hold the file, its own among them
    """
    found: list[Occurrence] = []
    imported = renaming.single and _imports(text, renaming.old.words[0])
    number, counted = 1, 0
    for spelling in renaming.find(text):
        number += text.count("\n", counted, spelling.start)
        counted = spelling.start
        begins = text.rfind("\n", 0, spelling.start) + 1
        ends = text.find("\n", spelling.end)
        line = text[begins : ends if ends >= 0 else len(text)]
        registering = number in registers
        kind = "registration" if registering else kind_of(path, line)
        at = spelling.start - begins
        meant = means_module is not None and any(one.start() <= at < one.end() for one in means_module.finditer(line))
        sure = registering or meant or _is_sure(renaming, spelling, text, line[:at], kind, inside, imported, depth)
        if others_word and kind in _WITH_IDENTIFIERS and not registering:
            only_module = meant and not _NAMES_A_FIELD.search(line[:at])
            sure = sure and (only_module or not _may_be_others(spelling, text, line[:at]))
        found.append(Occurrence(path, number, spelling.start, spelling.before, spelling.after, kind, not sure))
    return found


def _imports(text: str, name: str) -> bool:
    return re.search(rf"^\s*import\s+{re.escape(name)}\b", text, re.MULTILINE) is not None


def kind_of(path: str, line: str) -> str:
    """Return what a line of a file is, as a plan says it."""
    known = _KINDS.get(PurePosixPath(path).suffix.lower())
    return known or ("import" if _IMPORT.search(line) else "code")


def _is_sure(
    renaming: Renaming,
    spelling: Spelling,
    text: str,
    before: str,
    kind: str,
    inside: bool,
    imported: bool,
    depth: int,
) -> bool:
    """True where a spelling means the module: several words joined in one, or one word where only a name can stand.

    before   -- the line up to the spelling
    imported -- True in a file of code that imports the module by its whole name
    depth    -- how many folders of the module hold the file: a relative import of fewer dots stays within it
    """
    if not renaming.single:
        if spelling.separator == ".":
            return False  # two names, one below the other
        return inside or spelling.separator != " " or spelling.before == renaming.old.title
    left, right = text[spelling.start - 1 : spelling.start], text[spelling.end : spelling.end + 1]
    if not spelling.before.islower():
        return inside and left in _QUOTES and right in _QUOTES and spelling.before == renaming.old.title
    if BEGINS_IMPORT.search(before):
        dots = _DOTS.search(before)
        own = dots is not None and len(dots[1]) <= depth
        return not (own or right.isalnum() or right == "_")
    dotted = right == "." and text[spelling.end + 1 : spelling.end + 2].isidentifier()
    if kind == "code" and imported and dotted and not (left.isalnum() or left in (".", "_")):
        return True
    opens = left in _QUOTES or left == ">" or (kind == "catalogue" and left == ":")  # the context of a message
    return (opens and (dotted or right == ":")) or (right == "/" and (opens or left == "/"))


def _may_be_others(spelling: Spelling, text: str, before: str) -> bool:
    """True where a spelling stands as an identifier of its own, as a field or variable of that name does.

    ``tide_board_id`` and ``tide_board__station`` are such a field as well; ``"tide_board.Tide"``, ``tide_board:tides``,
    ``tide_board/list.html`` and ``"apps.tide_board.urls"`` are none.
    """
    if spelling.separator != "_" or not spelling.before.islower() or BEGINS_IMPORT.search(before):
        return False
    left, rest = text[spelling.start - 1 : spelling.start], text[spelling.end : spelling.end + 80]
    if left.isalnum() or left in ("_", "/") or rest[:1] in ("/", ":") or _IN_DOTTED_PATH.search(before):
        return False
    if left in _QUOTES and rest[:1] == ".":
        return False
    return _FIELD_ENDING.match(rest) is not None


def in_path(path: str, renaming: Renaming) -> str:
    """Return a path with the parts renamed that carry the name; one word alone must be a whole part, or its stem."""
    if not renaming.may_be_in(path.encode("utf-8", "surrogateescape")):
        return path
    parts = []
    for part in PurePosixPath(path).parts:
        if not renaming.single:
            parts.append(renaming.apply(part))
            continue
        stem, dot, endings = part.partition(".")
        found = next(renaming.find(stem), None)
        whole = found is not None and found.before == stem
        parts.append(f"{found.after}{dot}{endings}" if found is not None and whole else part)
    return PurePosixPath(*parts).as_posix()


def taken(text: str, chosen: Iterator[Occurrence] | list[Occurrence]) -> str:
    """Return a text with the chosen occurrences renamed."""
    parts, last = [], 0
    for one in chosen:
        parts += [text[last : one.start], one.after]
        last = one.start + len(one.before)
    return "".join([*parts, text[last:]])
