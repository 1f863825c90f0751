"""What sibling folders have in common: their files, and the lines elsewhere that name each of them."""

from __future__ import annotations

import os
import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from ...core.names import NameFamily, words_as_parted, words_of
from ...core.patterns.origin import ORIGIN_FILE
from ...core.renaming.spellings import Renaming
from ...disk.walking import Written

LARGEST_BYTES = 400_000
_PLACE = "\0"
_NAME = re.compile(r"[A-Za-z][\w-]*")


class Entry(NamedTuple):
    """A line that names a module: where, and the name as it is spelled there."""

    path: str
    line: int
    name: str


class Listing(NamedTuple):
    """Lines of one file that are alike but for the name in them.

    shape -- the line with a mark for the name; entries -- by the name of the module's folder; others -- names in lines
    of the shape of which there is no folder
    """

    path: str
    shape: str
    entries: Mapping[str, Entry]
    others: tuple[Entry, ...]


def sibling_folders(folder: Path, skipped: frozenset[str]) -> list[str]:
    """Return the folders that are modules: those that hold a file, hidden ones and what tools make left out."""
    found = []
    for entry in sorted(os.scandir(folder), key=lambda one: one.name):
        plain = (
            entry.is_dir(follow_symlinks=False) and not entry.name.startswith((".", "_")) and words_of(entry.name)[0]
        )
        if plain and entry.name not in skipped and any(os.scandir(entry.path)):
            found.append(entry.name)
    return found


def files_in_common(folder: Path, names: Sequence[str], skipped: frozenset[str]) -> dict[str, dict[str, str]]:
    """Return which modules have each file: by its path with a mark for the module's name, the modules and its path."""
    found: dict[str, dict[str, str]] = defaultdict(dict)
    for name in names:
        marked = Marking(name)
        for path in _files(folder / name, skipped):
            relative = path.relative_to(folder / name).as_posix()
            found[marked(relative)][name] = relative
    return found


def listings(folder: str, names: Sequence[str], files: Iterable[Written]) -> list[Listing]:
    """Return the lists in files of a host: lines of one shape that name at least half of its modules, and two.

    folder -- that of the modules, below the root
    """
    marks = {name: Marking(name) for name in names}
    words = {re.escape(words_as_parted(name)[0]) for name in names}
    found = []
    if not words:
        return []
    any_word = re.compile("|".join(sorted(words)).encode())
    for file in files:
        if file.path.startswith(f"{folder}/") or file.size > LARGEST_BYTES:
            continue
        content = file.read()
        if any_word.search(content.lower()) and b"\0" not in content:
            lines = content.decode("utf-8", "replace").splitlines()
            found += _listings_in(file.path, lines, names, marks)
    return found


def _listings_in(path: str, lines: Sequence[str], names: Sequence[str], marks: Mapping[str, Marking]) -> list[Listing]:
    shapes: dict[str, dict[str, Entry]] = defaultdict(dict)
    for number, line in enumerate(lines, 1):
        for name in names:
            shape = _bare(marks[name](line)) if len(line) < 500 else line
            if _PLACE in shape:
                shapes[shape].setdefault(name, Entry(path, number, name))
    found = []
    for shape, entries in shapes.items():
        if len(entries) >= max(2, len(names) / 2):
            taken = {entry.line for entry in entries.values()}
            pattern = re.compile(_pattern_of(shape))
            others = [
                Entry(path, number, alike[1])
                for number, line in enumerate(lines, 1)
                if number not in taken and (alike := pattern.fullmatch(_bare(line))) is not None
            ]
            found.append(Listing(path, shape, dict(entries), tuple(others)))
    return found


def _bare(line: str) -> str:
    """Return a line without what parts it from the next: the last of a list has none."""
    return line.rstrip().rstrip(",;")


def _pattern_of(shape: str) -> str:
    """Return what lines of a shape match: the first name is taken, the others of the line may be any."""
    first, *rest = shape.split(_PLACE)
    parts = [re.escape(first), f"({_NAME.pattern})", re.escape(rest[0])]
    for piece in rest[1:]:
        parts += [_NAME.pattern, re.escape(piece)]
    return "".join(parts)


class Marking:
    """Puts a mark where a module's name stands, in any spelling."""

    def __init__(self, name: str) -> None:
        family = NameFamily(name, words_as_parted(name))
        self._renaming = Renaming(family, family, numbers=False)

    def __call__(self, text: str) -> str:
        """Return a text with marks."""
        parts, last = [], 0
        for one in self._renaming.find(text):
            parts += [text[last : one.start], _PLACE]
            last = one.end
        return "".join([*parts, text[last:]])


def _files(folder: Path, skipped: frozenset[str]) -> Iterator[Path]:
    for where, folders, names in os.walk(folder):
        folders[:] = sorted(one for one in folders if one not in skipped and not one.startswith("."))
        for name in sorted(names):
            if name != ORIGIN_FILE:
                yield Path(where) / name
