"""Carrying a change set out: everything is staged beside its place, flushed, and then put there by renaming.

Nothing is ever written into a user's file in place. What stood there is kept in the work folder, ``old.N`` by its
content and, where the file system allows it, ``same.N`` as a second name of the very file.
"""

from __future__ import annotations

import errno
import os
import secrets
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import NamedTuple

from ..core.changes import ChangeSet, FileChange
from ..core.errors import Refused
from . import operations
from .attributes import Attributes, attributes_of, give
from .digests import digest_of
from .plan import PlannedFile, plan_pieces, staged_name
from .state import put_mark, take_mark

PLAN = "plan.json"
UNFINISHED_PLAN = "plan.part"  # files are still looked at: one of them may be refused


class Origin(NamedTuple):
    """What a file that comes back had before: its attributes, and a second name of the very file where there is one."""

    attributes: Attributes
    same: str


class NewFolders:
    """Which folders a change set makes; ``made`` are all of them, ``tops`` the uppermost, in the order of staging."""

    def __init__(self, root: str) -> None:
        self.root = root
        self.made: dict[str, None] = {}
        self.tops: dict[str, int] = {}
        self._top_of: dict[str, str | None] = {"": None}

    def top_of(self, folder: str) -> str | None:
        """Return the uppermost new folder that a folder lies in, or is; None for one that is there already."""
        if folder not in self._top_of:
            top = self.top_of(os.path.dirname(folder))
            if top is None and not os.path.lexists(os.path.join(self.root, folder)):
                top = folder
                self.tops[folder] = len(self.tops)
            if top is not None:
                self.made[folder] = None
            self._top_of[folder] = top
        return self._top_of[folder]


class Applying:
    """One change set on its way into a host's tree.

    root    -- the host's folder; work -- the work folder, which is made; undoes -- the change set it takes back
    origins -- what files that come back had before, by their paths
    tell    -- is told what could not be kept, in sentences
    """

    def __init__(
        self,
        root: Path,
        work: Path,
        changes: ChangeSet,
        undoes: str,
        origins: Mapping[str, Origin],
        tell: Callable[[str], None],
    ) -> None:
        self._root = str(root)
        self._work = str(work)
        self._changes = changes.changes
        self._title = changes.title
        self._undoes = undoes
        self._origins = origins
        self._tell = tell
        self._token = secrets.token_hex(8)
        self._new = NewFolders(self._root)
        self._touched: dict[str, None] = {}  # folders in which something was made, renamed or taken away

    def run(self) -> None:
        """Do it; raises Refused or OSError in the middle, and leaves it to the caller to take it back."""
        self._plan()
        put_mark(self._root, self._title)
        for index, change in enumerate(self._changes):
            if change.after is not None:
                self._stage(index, change)
        for folder in self._touched:
            operations.flush_folder(folder)
        for top, number in self._new.tops.items():
            self._put_top(top, self._beside(top, f"{number}.tree"))
        for index, change in enumerate(self._changes):
            self._put(index, change)
        for index, change in enumerate(self._changes):
            if change.before is not None:
                self._keep_aside(index, change)
        for folder in self._touched:
            operations.flush_folder(folder)
        take_mark(self._root)

    # -- the plan, and what stood there ------------------------------------------------------------------------------

    def _plan(self) -> None:
        """Write what will be done, and all that it takes to go back, before anything in the host is touched."""
        operations.make_folder(self._work, 0o700)
        pieces = plan_pieces(self._title, self._token, self._undoes, self._planned(), self._new)
        unfinished = os.path.join(self._work, UNFINISHED_PLAN)
        operations.write_pieces(unfinished, pieces)
        operations.rename(unfinished, os.path.join(self._work, PLAN))  # what has the name is whole
        operations.flush_folder(self._work)
        operations.flush_folder(os.path.dirname(self._work))

    def _planned(self) -> Iterator[PlannedFile]:
        for index, change in enumerate(self._changes):
            had = None
            if change.before is None:
                self._new.top_of(os.path.dirname(change.path))
            else:
                had = self._looked_at(change)
                operations.write_new(os.path.join(self._work, f"old.{index}"), change.before, operations.ALONE)
            yield PlannedFile(change.path, _digest(change.before), _digest(change.after), had)

    def _looked_at(self, change: FileChange) -> Attributes:
        """Return the attributes of a file that will be changed; raises Refused for one that should not be."""
        assert change.before is not None
        had = attributes_of(self._expected(change))
        if not had.mode & 0o222:
            raise Refused(
                "file-read-only",
                f"{change.path} is marked read-only; nothing was changed.",
                "Give it back the right to be written, if it may be changed.",
            )
        return had

    # -- staging -----------------------------------------------------------------------------------------------------

    def _beside(self, path: str, what: str) -> str:
        return staged_name(self._root, path, self._token, what)

    def _stage(self, index: int, change: FileChange) -> None:
        assert change.after is not None
        staged = self._beside(change.path, f"{index}.new")
        wanted: Attributes | None = None
        if change.before is None:
            top = self._new.top_of(os.path.dirname(change.path))
            if top is not None:
                staged = self._beside(top, f"{self._new.tops[top]}.tree") + change.path[len(top) :]
                self._make_folders(os.path.dirname(staged), os.path.dirname(self._beside(top, "")))
            origin = self._origins.get(change.path)
            wanted = origin.attributes if origin is not None else None
        else:
            wanted = attributes_of(os.path.join(self._root, change.path))
        self._touched[os.path.dirname(staged)] = None
        if self._is_the_same(change, staged):
            return
        operations.write_new(staged, change.after, operations.ALONE if wanted is not None else 0o666)
        if wanted is not None:
            lost = give(staged, wanted)
            if lost:
                self._tell(f"{change.path}: its {', '.join(lost)} could not be kept.")
            if wanted.names > 1:
                self._tell(f"{change.path} has a second name elsewhere (a hard link), which keeps the old content.")

    def _is_the_same(self, change: FileChange, staged: str) -> bool:
        """Stage the very file that was there before, where it was kept and still holds what comes back."""
        origin = self._origins.get(change.path)
        if origin is None or not origin.same:
            return False
        try:
            if operations.read_plain(origin.same) != change.after:
                return False
            operations.link(origin.same, staged)
        except OSError:
            return False
        return True

    def _make_folders(self, folder: str, stands: str) -> None:
        if folder not in self._touched and folder != stands:
            self._make_folders(os.path.dirname(folder), stands)
            operations.make_folder(folder)
            self._touched[folder] = None
            self._touched[os.path.dirname(folder)] = None

    # -- putting in place --------------------------------------------------------------------------------------------

    def _put_top(self, top: str, tree: str) -> None:
        target = os.path.join(self._root, top)
        self._touched[os.path.dirname(target)] = None
        if os.path.lexists(target):
            raise _not_as_expected(top, "came to be meanwhile")
        try:
            operations.rename(tree, target)
        except OSError as error:
            if error.errno in (errno.ENOTEMPTY, errno.EEXIST, errno.ENOTDIR):
                raise _not_as_expected(top, "came to be meanwhile") from None
            raise

    def _put(self, index: int, change: FileChange) -> None:
        target = os.path.join(self._root, change.path)
        staged = self._beside(change.path, f"{index}.new")
        aside = self._beside(change.path, f"{index}.old")
        self._touched[os.path.dirname(target)] = None
        if change.before is None:
            if self._new.top_of(os.path.dirname(change.path)) is None:
                self._put_new(change.path, staged, target)
            return
        self._expected(change)
        if change.after is None:
            operations.rename(target, aside)
            return
        try:
            operations.link(target, aside)
        except OSError:
            pass  # no links here: ``old.N`` holds its content, the plan its attributes
        operations.rename(staged, target)

    @staticmethod
    def _put_new(path: str, staged: str, target: str) -> None:
        """Put a new file in its place, never over another one."""
        try:
            operations.link(staged, target)
        except FileExistsError:
            raise _not_as_expected(path, "came to be meanwhile") from None
        except OSError:
            #  no links here: an empty file holds the place, which can be made only where nothing stands
            try:
                operations.write_new(target, b"")
            except FileExistsError:
                raise _not_as_expected(path, "came to be meanwhile") from None
            operations.rename(staged, target)
            return
        operations.unlink(staged)

    def _expected(self, change: FileChange) -> str:
        """Return the path of a file that stands as the change set expects it; raises Refused for another."""
        target = os.path.join(self._root, change.path)
        try:
            with open(target, "rb") as handle:
                now = handle.read()
        except FileNotFoundError:
            raise _not_as_expected(change.path, "is gone") from None
        if now != change.before:
            raise _not_as_expected(change.path, "was changed meanwhile")
        return target

    def _keep_aside(self, index: int, change: FileChange) -> None:
        """Keep what stood there under a second name for an undo, where that can be; then nothing is left beside."""
        aside = self._beside(change.path, f"{index}.old")
        if not os.path.lexists(aside):
            return
        if operations.read_plain(aside) != change.before:
            raise _not_as_expected(change.path, "was changed meanwhile")
        if change.after is None or os.lstat(aside).st_nlink > 1:
            try:
                operations.link(aside, os.path.join(self._work, f"same.{index}"))
            except OSError:
                pass  # the state lies on another disk
        operations.unlink(aside)


def _digest(content: bytes | None) -> str | None:
    return None if content is None else digest_of(content)


def _not_as_expected(path: str, what: str) -> Refused:
    return Refused("file-changed-meanwhile", f"{path} {what}; nothing was changed.", "Run the command again.")
