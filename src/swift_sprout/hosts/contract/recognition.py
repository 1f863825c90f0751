"""Whether a folder is the root of a host, by what kits say under ``[recognise]``; every command asks every kit."""

from __future__ import annotations

import os
import re
from fnmatch import filter
from functools import cache
from pathlib import Path

import tomli

from ...core.sections import section_from
from .kitfacts import Recognise


def recognised(kit_folder: Path, folder: Path) -> bool:
    """True when a folder holds the file that a kit's data name under ``[recognise]``, with the text that it must hold.

    Where the table says ``within`` (patterns of further files) and ``says``, one of those must hold that text as well;
    one of ``others`` is enough by itself.
    Of the data only that table is read: every command asks every kit.
    """
    known = _said(kit_folder)
    root = str(folder)
    try:
        if known.unless and known.unless in _names_in(root):
            return False
        if any(_holds(root, sign.file, sign.holds) for sign in known.others):
            return True
        if not _holds(root, known.file, known.holds):
            return False
        further = [path for pattern in known.within for path in _matching(root, pattern)]
        return not known.within or any(known.says in _text(path) for path in further if os.path.isfile(path))
    except OSError:
        return False


@cache
def _said(kit_folder: Path) -> Recognise:
    """Return what a kit's data say of recognising, which no run changes."""
    text = (kit_folder / "kit.toml").read_text("utf-8")
    begins = text.index("[recognise]")
    ends = text.find("\n[", begins)
    found: Recognise = section_from(Recognise, tomli.loads(text[begins : ends if ends > 0 else None])["recognise"])
    return found


def _holds(root: str, pattern: str, text: str) -> bool:
    """True where a file of a pattern holds a text; a file that is named outright may be a hidden one."""
    paths = _matching(root, pattern) if _WILD.search(pattern) else [f"{root}/{pattern}"]
    return any(text in _text(path) for path in paths if os.path.isfile(path))


def look_afresh() -> None:
    """Forget the files that kits were recognised by before: they may have changed since."""
    _matching.cache_clear()
    _names_in.cache_clear()
    _text.cache_clear()


_WILD = re.compile(r"[*?[]")


@cache
def _matching(folder: str, pattern: str) -> list[str]:
    """Return what lies in a folder and matches a pattern, such as ``*/settings.py``; hidden names never do."""
    first, _, rest = pattern.partition("/")
    places = [f"{folder}/{name}" for name in _fitting(_names_in(folder), first)]
    if not rest:
        return places
    if "/" in rest:
        return [path for place in places for path in _matching(place, rest)]
    return [f"{place}/{name}" for place in places for name in _fitting(_names_in(place), rest)]


def _fitting(names: list[str], pattern: str) -> list[str]:
    """Return the names that match one step of a pattern."""
    begins = _beginning(pattern)
    if begins == pattern:
        return [pattern] if pattern in names else []
    if pattern != "*":
        names = [name for name in names if name.startswith(begins)]  # few do, and looking at all of it takes longer
    if not names or pattern == "*":
        return names
    return filter(names, pattern)


@cache
def _beginning(pattern: str) -> str:
    return _WILD.split(pattern, maxsplit=1)[0]


@cache
def _names_in(folder: str) -> list[str]:
    """Return the names in a folder that are not hidden; several kits ask the same, and hosts may be large."""
    try:
        return [name for name in os.listdir(folder) if name[0] != "."]
    except OSError:
        return []


@cache
def _text(path: str) -> str:
    with open(path, encoding="utf-8", errors="replace") as handle:
        return handle.read()
