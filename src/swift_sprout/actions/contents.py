"""``content take`` and ``content put``: a module's records and pages as files beside its code."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from ..core.changes import ChangeSet
from ..core.contents import FOLDER, FORMAT, PutContent
from ..core.errors import Problem, Refused, WrongUse
from .hosting import OpenHost, carried_out


class Taken(NamedTuple):
    """What was taken, or would be: the module, its folder for content, how many items of each type, the files."""

    module: str
    folder: str
    counts: dict[str, int]
    changes: ChangeSet


def take(opened: OpenHost, name: str, preview: bool) -> Taken:
    """Write a module's content into its folder; what an earlier run wrote there and is no more, goes.

    Raises Refused, with nothing changed, where a file of another sort stands in the place of one.
    """
    return carried_out(opened, f"take the content of {name}", lambda: _planned(opened, name), preview)


def _planned(opened: OpenHost, name: str) -> Taken:
    module = opened.host.find(name)
    folder = f"{opened.host.folder(module)}/{FOLDER}"
    root = opened.host.root
    taken = opened.host.take_content(module)
    changes = ChangeSet(f"take the content of {module}")
    for below, content in sorted(taken.files.items()):
        path = root / folder / below
        before = path.read_bytes() if path.is_file() else None
        if before is not None and below.endswith(".json") and not _is_content(before):
            raise Refused(
                "content-taken", f"{folder}/{below} is no content; nothing was changed.", "Move that file away."
            )
        if before != content:
            changes.add(f"{folder}/{below}", before, content)
    for path in sorted((root / folder).rglob("*")) if (root / folder).is_dir() else ():
        below = path.relative_to(root / folder).as_posix()
        if not path.is_file() or below in taken.files:
            continue
        if below.startswith("files/") or (path.suffix == ".json" and _is_content(path.read_bytes())):
            changes.add(f"{folder}/{below}", path.read_bytes(), None)
    return Taken(module, folder, taken.counts, changes)


def _is_content(content: bytes) -> bool:
    try:
        data = json.loads(content)
    except (ValueError, RecursionError):
        return False
    return isinstance(data, dict) and data.get("format") == FORMAT


def put(opened: OpenHost, name: str, preview: bool) -> tuple[str, PutContent]:
    """Put a module's content into the host's database; returns the module, and what was done or would be.

    Raises WrongUse that lists every file which cannot be read, with nothing changed.
    """
    module = opened.host.find(name)
    folder = opened.host.root / opened.host.folder(module) / FOLDER
    where = f"{opened.host.folder(module)}/{FOLDER}"
    if not folder.is_dir():
        raise WrongUse(
            "no-content", f"{where} is not there: no content was taken.", f"swift-sprout content take {module}"
        )
    problems = list(_problems(folder, where))
    if problems:
        raise WrongUse("content-wrong", f"{where} cannot be put.", "Fix what is listed.", tuple(problems))
    with opened.writing(f"put content of {module}"):
        return module, opened.host.put_content(module, folder, not preview)


def _problems(folder: Path, where: str) -> Iterator[Problem]:
    """Yield what is wrong with the files of a content folder, each with its file."""
    for path in sorted(folder.glob("*.json")):
        place = f"{where}/{path.name}"
        try:
            data = json.loads(path.read_text("utf-8"))
        except json.JSONDecodeError as error:
            yield Problem(f"{place}:{error.lineno}", f"this is no JSON: {error.msg}", "Fix that line.")
        except UnicodeDecodeError:
            yield Problem(place, "this is no UTF-8", "Take the content again, or bring the file back.")
        except RecursionError:
            yield Problem(place, "it is nested too deeply", "Take the content again, or bring the file back.")
        except OSError as error:
            yield Problem(place, f"it cannot be read: {(error.strerror or str(error)).lower()}", "Give the right to.")
        else:
            yield from _wrong(data, folder, place)


def _wrong(data: object, folder: Path, place: str) -> Iterator[Problem]:
    """Yield what is wrong with the content of one file."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        yield Problem(place, "this is no content", f'It must say "format": "{FORMAT}".')
        return
    items = data.get("items", [])
    if not isinstance(items, list) or not all(isinstance(item, dict) for item in items):
        yield Problem(place, "its items are no list of items", "See docs/content.md.")
        return
    if not isinstance(data.get("type"), str):
        yield Problem(place, "it lacks a type", "See docs/content.md.")
    keys = Counter(item.get("key") if isinstance(item.get("key"), str) else None for item in items)
    if keys.pop(None, 0):
        yield Problem(place, "an item lacks its key", "See docs/content.md.")
    for key in sorted(str(one) for one, count in keys.items() if count > 1):
        yield Problem(place, f"the key {key!r} is there twice", "Take one item out.")
    for name in _files_named(data):
        path = folder / name
        if ".." in path.parts or not path.is_file():
            yield Problem(place, f"{name} is not there", "Take the content again, or bring the file back.")


def _files_named(data: object) -> list[str]:
    """Return the names of taken files that data hold, at any depth."""
    found: list[str] = []
    waiting = [data]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            named = str(one.get("file", ""))
            found += [named] if named.startswith("files/") else []
            waiting += one.values()
        elif isinstance(one, list):
            waiting += one
    return found
