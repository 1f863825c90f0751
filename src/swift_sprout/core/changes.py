"""A change set: the file operations that one command wants to make, as data that can be shown before it is done."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import NamedTuple

from .lines import plain_lines


class FileChange(NamedTuple):
    """One file to be made, changed or taken away.

    path   -- relative to the host's root, with forward slashes
    before -- the bytes that stand there now, None when there is no file
    after  -- the bytes that shall stand there, None to take the file away
    """

    path: str
    before: bytes | None
    after: bytes | None

    @property
    def kind(self) -> str:
        """``make``, ``change`` or ``take away``."""
        if self.before is None:
            return "make"
        return "take away" if self.after is None else "change"


class ChangeSet:
    """The operations of one command; applied all or nothing by ``swift_sprout.disk``."""

    def __init__(self, title: str) -> None:
        self.title = title
        self._by_path: dict[str, FileChange] = {}

    @property
    def changes(self) -> list[FileChange]:
        """The operations in the order in which they were added."""
        return list(self._by_path.values())

    def add(self, path: str, before: bytes | None, after: bytes | None) -> None:
        """Add one operation; an operation that changes nothing is left out.

        Two edits of one file are joined: the second must start from the bytes that the first leaves.
        """
        earlier = self._by_path.pop(path, None)
        if earlier is not None:
            if earlier.after != before:
                raise ValueError(f"edits of {path} do not follow each other")
            before = earlier.before
        if before != after:
            self._by_path[path] = FileChange(path, before, after)

    def drop(self, path: str) -> None:
        """Forget the operation on a path."""
        self._by_path.pop(path, None)

    def __bool__(self) -> bool:
        return bool(self._by_path)

    def made(self) -> list[str]:
        """Return the paths of the files that are made."""
        return [change.path for change in self.changes if change.kind == "make"]

    def tree(self) -> list[str]:
        """Return the change set as the lines of a folder tree, each file with its kind of change and size."""
        root: dict[str, object] = {}
        for change in sorted(self.changes, key=lambda one: one.path):
            level = root
            *folders, name = PurePosixPath(change.path).parts
            for folder in folders:
                level = level.setdefault(folder + "/", {})  # type: ignore[assignment]
            level[name] = change
        return _tree_lines(root, "")

    def diff(self) -> list[str]:
        """Return the change set as lines of unified diffs."""
        from difflib import unified_diff

        from .made import MADE_FILE

        lines: list[str] = []
        for change in self.changes:
            old, new = _lines(change.before), _lines(change.after)
            if PurePosixPath(change.path).name == MADE_FILE:
                lines.append(f"{change.kind} {change.path} (packed: what was generated)")
                continue
            if old is None or new is None:
                lines.append(f"{change.kind} {change.path} (not text)")
                continue
            before = "/dev/null" if change.before is None else f"a/{change.path}"
            after = "/dev/null" if change.after is None else f"b/{change.path}"
            lines.extend(unified_diff(old, new, before, after, lineterm=""))
        return lines


def _lines(content: bytes | None) -> list[str] | None:
    if content is None:
        return []
    try:
        return [line.rstrip("\n").removesuffix("\r") for line in plain_lines(content.decode("utf-8"))]
    except UnicodeDecodeError:
        return None


_MARK = {"make": "+", "change": "~", "take away": "-"}


def _tree_lines(level: dict[str, object], indent: str) -> list[str]:
    lines: list[str] = []
    for position, (name, entry) in enumerate(level.items()):
        last = position == len(level) - 1
        branch = "└─ " if last else "├─ "
        if isinstance(entry, FileChange):
            size = "" if entry.after is None else f"  {len(entry.after)} B"
            lines.append(f"{indent}{branch}{_MARK[entry.kind]} {name}{size}")
        else:
            lines.append(f"{indent}{branch}{name}")
            assert isinstance(entry, dict)
            lines.extend(_tree_lines(entry, indent + ("   " if last else "│  ")))
    return lines
