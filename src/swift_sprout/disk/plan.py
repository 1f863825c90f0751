"""The plan of a change set, as the journal keeps it on disk: written before anything is changed, and validated.

The names under which files are staged beside their places are made of the plan's token, so that whoever reads the plan
finds what a killed run left.
"""

from __future__ import annotations

import json
import os
import re
from collections.abc import Iterable, Iterator
from typing import Any, NamedTuple

from .attributes import Attributes

STAGED = ".swift-sprout-"
LONGEST_TITLE = 300
_DIGEST = re.compile(r"[0-9a-f]{64}")
_TOKEN = re.compile(r"[0-9a-f]{16}")
_NUMBER = re.compile(r"\d{6,12}")


class PlannedFile(NamedTuple):
    """One file of a plan.

    before, after -- the digests of its content, None where there is no file
    attributes    -- what it had before, None for a file that is made
    """

    path: str
    before: str | None
    after: str | None
    attributes: Attributes | None


class Plan(NamedTuple):
    """What a change set does.

    token        -- what the names of its staged files are made of
    undoes       -- the number of the change set that it takes back; empty for none
    made_folders -- the folders that it makes, the upper ones first
    tops         -- the uppermost of those: each is staged as a whole
    """

    title: str
    token: str
    undoes: str
    files: list[PlannedFile]
    made_folders: list[str]
    tops: list[str]

    def staged(self, root: str, index: int) -> str:
        """Return where the new content of a file waits beside its place."""
        return staged_name(root, self.files[index].path, self.token, f"{index}.new")

    def aside(self, root: str, index: int) -> str:
        """Return where what stood in a file's place lies meanwhile."""
        return staged_name(root, self.files[index].path, self.token, f"{index}.old")

    def staged_top(self, root: str, index: int) -> str:
        """Return where a whole new folder waits beside its place."""
        return staged_name(root, self.tops[index], self.token, f"{index}.tree")


def staged_name(root: str, path: str, token: str, what: str) -> str:
    """Return a name beside a path of the host that nobody else gives."""
    return os.path.join(root, os.path.dirname(path), f"{STAGED}{token}-{what}")


def plan_pieces(title: str, token: str, undoes: str, files: Iterable[PlannedFile], folders: Any) -> Iterator[str]:
    """Yield a plan as pieces of JSON: there may be very many files.

    folders -- an object that has ``made`` and ``tops`` when all files were taken
    """
    yield '{"files": ['
    for index, one in enumerate(files):
        attributes = one.attributes.as_data() if one.attributes is not None else None
        yield (", " if index else "") + json.dumps([one.path, one.before, one.after, attributes])
    said = "".join(letter if letter.isprintable() else "·" for letter in title)[:LONGEST_TITLE]
    rest = {"title": said, "token": token, "undoes": undoes, "made_folders": [*folders.made], "tops": [*folders.tops]}
    yield "], " + json.dumps(rest)[1:]


def read_plan(content: bytes) -> Plan:
    """Return a plan as it was written; raises ValueError for one of another form, or with a path that leads out."""
    data = _loaded(content)
    title, token, undoes = data.get("title"), data.get("token"), data.get("undoes")
    if not isinstance(title, str) or not title.isprintable() or len(title) > LONGEST_TITLE:
        raise ValueError("its title is none")
    if not isinstance(token, str) or not _TOKEN.fullmatch(token):
        raise ValueError("its token is none")
    if not isinstance(undoes, str) or (undoes and not _NUMBER.fullmatch(undoes)):
        raise ValueError("what it takes back is no change set")
    files = [_file(entry) for entry in _list(data, "files")]
    if len({one.path for one in files}) != len(files):
        raise ValueError("it names a file twice")
    folders = [checked_path(one) for one in _list(data, "made_folders")]
    tops = [checked_path(one) for one in _list(data, "tops")]
    if not set(tops) <= set(folders):
        raise ValueError("a folder is staged that it does not make")
    return Plan(title, token, undoes, files, folders, tops)


def checked_path(path: Any) -> str:
    """Return a path below the host's folder as it is; raises ValueError for any other."""
    if not isinstance(path, str) or not path or "\0" in path or path.startswith("/"):
        raise ValueError(f"{path!r} is no path below the host")
    if any(part in ("", ".", "..") for part in path.split("/")):
        raise ValueError(f"{path!r} leads out of the host")
    return path


def checked_digest(digest: Any) -> str | None:
    """Return a digest, or None where there is none; raises ValueError for anything else."""
    if digest is not None and not (isinstance(digest, str) and _DIGEST.fullmatch(digest)):
        raise ValueError(f"{digest!r} is no digest")
    return digest


def _file(entry: Any) -> PlannedFile:
    if not isinstance(entry, list) or len(entry) != 4:
        raise ValueError("a file of another form")
    path, before, after, attributes = entry
    if before is None and after is None:
        raise ValueError(f"{path!r} is neither made, changed nor taken away")
    if (before is None) != (attributes is None):
        raise ValueError(f"{path!r} has the attributes of another file")
    try:
        had = Attributes.from_data(attributes) if attributes is not None else None
    except TypeError as error:
        raise ValueError("attributes of another form") from error
    return PlannedFile(checked_path(path), checked_digest(before), checked_digest(after), had)


def _loaded(content: bytes) -> dict[str, Any]:
    try:
        data = json.loads(content)
    except RecursionError:
        raise ValueError("it is nested too deeply") from None
    if not isinstance(data, dict):
        raise ValueError("it is no table")
    return data


def _list(data: dict[str, Any], key: str) -> list[Any]:
    found = data.get(key)
    if not isinstance(found, list):
        raise ValueError(f"its {key} are no list")
    return found
