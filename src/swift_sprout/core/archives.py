"""What an archive of a module must be, told from the names that it holds: no file is touched here."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fnmatch import fnmatch
from pathlib import PurePosixPath
from typing import NamedTuple

from .errors import Problem, WrongUse

LARGEST_BYTES = 512 * 1024 * 1024
MOST_ENTRIES = 20_000


class Entry(NamedTuple):
    """One entry of an archive: its name as it stands there, its size in bytes unpacked, and whether it is a link."""

    name: str
    size: int
    link: bool = False


def checked(entries: Iterable[Entry], place: str) -> str:
    """Return the one folder at the top of an archive; raises WrongUse that names every entry that is not safe."""
    held = list(entries)
    problems = [Problem(entry.name, what, remedy) for entry in held for what, remedy in _wrong(entry)]
    seen: dict[str, str] = {}
    for entry in held:
        plain = entry.name.rstrip("/").lower()
        if plain in seen and not entry.name.endswith("/"):
            problems.append(Problem(entry.name, f"it is there twice (as {seen[plain]})", "Pack it again."))
        seen.setdefault(plain, entry.name)
    if too_much(held):
        what = "it unpacks to more than 512 MiB, or to more than 20,000 files"
        problems = [Problem(place, what, "Look at what it holds.")]
    if problems:
        raise WrongUse(
            "archive-unsafe",
            f"{place} is not safe to unpack; nothing was.",
            "Pack it again from its source.",
            tuple(problems),
        )
    if not held:
        raise WrongUse("archive-empty", f"{place} holds nothing.", "Pack the module again.")
    tops = sorted({PurePosixPath(entry.name).parts[0] for entry in held})
    loose = [entry.name for entry in held if "/" not in entry.name]
    if len(tops) != 1 or loose:
        raise WrongUse(
            "archive-without-folder",
            f"{place} has no single folder at its top (it has {', '.join(tops[:5])}).",
            "Put everything into one folder that is named like the module.",
        )
    return tops[0]


def too_much(entries: Sequence[Entry]) -> bool:
    """True for more than any module holds: unpacking it would fill the disk."""
    return sum(entry.size for entry in entries) > LARGEST_BYTES or len(entries) > MOST_ENTRIES


def _wrong(entry: Entry) -> list[tuple[str, str]]:
    path = entry.name.replace("\\", "/")
    if entry.link:
        return [("it is a link", "Put the file itself into the archive.")]
    if path.startswith("/") or path[1:3] == ":/" or "\0" in path:
        return [("it says a whole path", "Paths in an archive begin at its top.")]
    if ".." in path.split("/"):
        return [("its path climbs out of the archive", "Nothing may be unpacked beside it.")]
    if "\\" in entry.name:
        return [("its path has backslashes", "Folders are told apart by / in an archive.")]
    return []


def left_out(path: str, patterns: Iterable[str]) -> bool:
    """True when a path below a module's folder is not for its archive."""
    parts = PurePosixPath(path).parts
    return any(fnmatch(path, pattern) or any(fnmatch(part, pattern) for part in parts) for pattern in patterns)
