"""A module on disk: its brief, what was generated last, and its files."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path

from ..core.brief import BRIEF_FILE, Brief, brief_from_toml
from ..core.changes import ChangeSet
from ..core.errors import Refused, WrongUse
from ..core.made import MADE_FILE, Made
from ..edits.carrying import NotCarried
from ..edits.source import SourceText
from .hosting import OpenHost


class FilesOnDisk:
    """The files in a folder of an open host; ``folder`` is empty for its root."""

    def __init__(self, opened: OpenHost, folder: str) -> None:
        self.opened = opened
        self.folder = folder
        self.path: Path = opened.host.root / folder
        self._contents: dict[str, bytes | None] = {}

    def place(self, path: str) -> str:
        """Return the path of a file below the host's root."""
        return f"{self.folder}/{path}" if self.folder else path

    def content(self, path: str) -> bytes | None:
        """Return the bytes of one of its files; None when it is not there. Raises Refused for one that lies outside.

        Each is read once: what is worked out from it and what a change set expects to find are then the same, so that
        an edit that is saved meanwhile is seen.
        """
        if path not in self._contents:
            self._contents[path] = self._read(path)
        return self._contents[path]

    def _read(self, path: str) -> bytes | None:
        place = self.path / path
        if not place.is_file():
            if place.exists() or place.is_symlink():
                sentence = f"{self.place(path)} is no file; nothing was changed."
                raise Refused("not-a-file", sentence, "Move it away.")
            return None
        if not place.resolve().is_relative_to(self.opened.host.root.resolve()):
            raise Refused(
                "outside",
                f"{self.place(path)} is a link that leads out of the host; nothing was changed.",
                "Put the file itself into the module.",
            )
        return place.read_bytes()

    def put(self, changes: ChangeSet, path: str, after: bytes | None) -> None:
        """Add one of its files to a change set."""
        changes.add(self.place(path), self.content(path), after)


class ModuleOnDisk(FilesOnDisk):
    """One module of an open host; ``name`` is its name there."""

    def __init__(self, opened: OpenHost, name: str) -> None:
        self.name = opened.host.find(name)
        super().__init__(opened, opened.host.folder(self.name))

    @cached_property
    def brief(self) -> Brief | None:
        """Its brief as it is written down; None when it has none. Raises WrongUse for one that is wrong."""
        content = self.content(BRIEF_FILE)
        if content is None:
            return None
        try:
            return brief_from_toml(content.decode("utf-8-sig"), f"{self.folder}/{BRIEF_FILE}")
        except UnicodeDecodeError:
            raise WrongUse(
                "brief-unreadable", f"{self.folder}/{BRIEF_FILE} is not UTF-8 text.", "Save it as UTF-8."
            ) from None

    @cached_property
    def made(self) -> Made | None:
        """What was generated last; None when that is not known. Raises Refused for a file that is broken."""
        content = self.content(MADE_FILE)
        return None if content is None else Made.read(content, f"{self.folder}/{MADE_FILE}")

    def brief_source(self) -> SourceText:
        """Return the text of its brief."""
        content = self.content(BRIEF_FILE)
        assert content is not None
        return SourceText.plain(content)

    def changed(self, changes: ChangeSet) -> dict[str, bytes]:
        """Return its files that a change set makes or changes, as they will stand."""
        start = f"{self.folder}/"
        return {
            change.path.removeprefix(start): change.after
            for change in changes.changes
            if change.path.startswith(start) and change.after is not None
        }

    def refused(self, path: str, error: NotCarried) -> Refused:
        """Return the error for a file that a change cannot be carried into."""
        place = f"{self.folder}/{path}:{error.line}" if error.line else f"{self.folder}/{path}"
        return Refused("file-unclear", f"{place}: {error.reason}; nothing was changed.", "Fix that place first.")
