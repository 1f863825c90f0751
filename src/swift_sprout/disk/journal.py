"""Applying a change set all or nothing, taking back what a killed run left, and undoing the last one.

A change set lives in ``.swift-sprout/changes/NNNNNN.open`` while it is applied: ``plan.json``, staged new files
``new.N``, whole new folders ``tree.N`` and old files ``old.N``. Renaming that folder to ``NNNNNN`` is the one moment
at which it counts as done; until then a later run takes it back. Nothing is ever written into a user's file in place: a
staged file or folder is linked or renamed onto the path.
"""

from __future__ import annotations

import errno
import json
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from ..core.changes import ChangeSet, FileChange
from ..core.errors import Problem, Refused
from ..core.namedtuples import NamedTuple
from .digests import digest_of
from .lock import DEFAULT_WAIT_SECONDS, writer_lock

STATE_FOLDER = ".swift-sprout"
KEPT_CHANGES = 50


class Done(NamedTuple):
    """A change set that was applied, as its journal tells it.

    turned -- modules that were switched in the host's own state with it, and whether on or off
    """

    number: str
    title: str
    paths: list[str]
    notes: list[str]
    turned: list[tuple[str, bool]]


class Journal:
    """The change sets of one host; ``root`` is the host's folder."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self.state = root / STATE_FOLDER
        self.folder = self.state / "changes"
        self._held = False

    @contextmanager
    def writing(
        self,
        purpose: str,
        wait_seconds: float = DEFAULT_WAIT_SECONDS,
        on_wait: Callable[[str], None] = lambda sentence: None,
    ) -> Iterator[None]:
        """Hold the host's writer lock; on entry, take back what a killed run left half-written."""
        if self._held:
            yield
            return
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            ignore = self.state / ".gitignore"
            if not ignore.exists():
                ignore.write_text("*\n", "utf-8")
        except OSError as error:
            raise _cannot_write(self.root, error) from None
        with writer_lock(self.state, purpose, wait_seconds, on_wait):
            self._held = True
            try:
                self._tidy()
                yield
            finally:
                self._held = False

    def half_written(self) -> bool:
        """True when a run was killed while it applied a change set (or is applying one now)."""
        return self.folder.is_dir() and any(name.endswith(".open") for name in os.listdir(self.folder))

    def recover(self, wait_seconds: float = DEFAULT_WAIT_SECONDS) -> None:
        """Take back what a killed run left; does nothing when there is nothing to take back."""
        if self.half_written():
            with self.writing("taking back an interrupted change", wait_seconds):
                pass

    def apply(self, changes: ChangeSet) -> str:
        """Apply a change set all or nothing and return its number; the lock must be held.

        Raises Refused, with everything as before, when a file is not as the change set expects it, a path leads out
        of the host, or the disk does not take it.
        """
        assert self._held, "apply needs the writer lock"
        inside: dict[str, bool] = {}
        for change in changes.changes:
            self._safe(change.path, inside)
        number = f"{self._next_number():06d}"
        work = self.folder / f"{number}.open"
        try:
            trees = self._stage(work, changes)
            self._carry_out(work, changes.changes, trees)
            os.rename(work, self.folder / number)
        except BaseException as error:
            self._take_back(work)
            if isinstance(error, OSError):
                raise _cannot_write(self.root, error) from None
            raise
        self._prune()
        return number

    def note(self, number: str, text: str) -> None:
        """Keep one more sentence with a change set, for whoever undoes it."""
        with open(self.folder / number / "notes", "a", encoding="utf-8") as handle:
            handle.write(text.replace("\n", " ") + "\n")

    def turned(self, number: str, module: str, on: bool) -> None:
        """Keep with a change set that a module was switched on or off in the host's own state."""
        with open(self.folder / number / "turned", "a", encoding="utf-8") as handle:
            handle.write(f"{'on' if on else 'off'} {module}\n")

    def last(self) -> Done | None:
        """Return the newest change set that was applied and not undone, or None."""
        numbers = self._numbers()
        if not numbers:
            return None
        plan = self._plan(self.folder / numbers[-1])
        turned = [line.partition(" ") for line in self._lines(numbers[-1], "turned")]
        return Done(
            numbers[-1],
            plan["title"],
            [entry["path"] for entry in plan["files"]],
            self._lines(numbers[-1], "notes"),
            [(module, word == "on") for word, _, module in turned],
        )

    def _lines(self, number: str, name: str) -> list[str]:
        path = self.folder / number / name
        return path.read_text("utf-8").splitlines() if path.exists() else []

    def inverse(self, number: str) -> ChangeSet:
        """Return the change set that takes one back; raises Refused when files were changed since."""
        folder = self.folder / number
        plan = self._plan(folder)
        inverse = ChangeSet(f"undo {plan['title']}")
        problems = []
        for index, entry in enumerate(plan["files"]):
            path = self.root / entry["path"]
            now = path.read_bytes() if path.is_file() else None
            if _digest(now) != entry["after"]:
                what = "is gone" if now is None else "was changed"
                problems.append(Problem(entry["path"], f"{what} after the change set was applied"))
                continue
            before = (folder / f"old.{index}").read_bytes() if entry["before"] is not None else None
            inverse.add(entry["path"], now, before)
        if problems:
            raise Refused(
                "undo-changed-since",
                f"Undoing {plan['title']!r} would lose later work.",
                "Put the listed files aside, or mend them by hand.",
                tuple(problems),
            )
        return inverse

    def undo(self, number: str) -> None:
        """Take one change set back; the lock must be held. Raises Refused as ``inverse`` and ``apply`` do."""
        inverse = self.inverse(number)
        made_folders = self._plan(self.folder / number)["made_folders"]
        if inverse:
            inverse.title = f"\0undo {number}"
            self.apply(inverse)
        self._remove_folders(made_folders)
        self._finish_undo(number)

    # -- one change set ------------------------------------------------------------------------------------------

    def _stage(self, work: Path, changes: ChangeSet) -> dict[str, str]:
        """Write all new content beside the change set's plan; returns the new folders, each with its staged tree."""
        work.mkdir()
        new = _NewFolders(self.root)
        staged_folders: set[str] = set()
        with open(work / "plan.part", "w", encoding="utf-8") as plan:  # bit by bit: there may be very many files
            plan.write('{"files": [')
            for index, change in enumerate(changes.changes):
                self._stage_one(work, index, change, new, staged_folders)
                entry = {"path": change.path, "before": _digest(change.before), "after": _digest(change.after)}
                plan.write((", " if index else "") + json.dumps(entry))
            rest = {"title": changes.title, "made_folders": list(new.made), "trees": new.tops}
            plan.write("], " + json.dumps(rest)[1:])
        os.rename(work / "plan.part", work / "plan.json")
        return new.tops

    def _stage_one(
        self, work: Path, index: int, change: FileChange, new: _NewFolders, staged_folders: set[str]
    ) -> None:
        mode = None
        if change.before is not None:
            mode = os.stat(os.path.join(self.root, change.path)).st_mode & 0o7777
            if not mode & 0o222:
                raise Refused(
                    "file-read-only",
                    f"{change.path} is marked read-only; nothing was changed.",
                    "Give it back the right to be written, if it may be changed.",
                )
        if change.after is None:
            return
        top = new.top_of(os.path.dirname(change.path)) if change.before is None else None
        staged = os.path.join(work, f"new.{index}")
        if top is not None:
            staged = os.path.join(work, new.tops[top] + change.path[len(top) :])
            folder = os.path.dirname(staged)
            if folder not in staged_folders:
                os.makedirs(folder, exist_ok=True)
                staged_folders.add(folder)
        with open(staged, "wb") as handle:
            handle.write(change.after)
        if mode is not None:
            os.chmod(staged, mode)

    def _carry_out(self, work: Path, changes: list[FileChange], trees: dict[str, str]) -> None:
        for top, tree in trees.items():
            _move_tree(os.path.join(work, tree), self.root, top)
        for index, change in enumerate(changes):
            target, staged = os.path.join(self.root, change.path), os.path.join(work, f"new.{index}")
            old = os.path.join(work, f"old.{index}")
            if change.before is None:
                if not os.path.exists(staged):
                    continue  # it came with its folder
                try:
                    _link(staged, target)
                except FileExistsError:
                    raise _not_as_expected(change.path, "came to be meanwhile") from None
                os.unlink(staged)
                continue
            try:
                with open(target, "rb") as handle:
                    now = handle.read()
            except FileNotFoundError:
                raise _not_as_expected(change.path, "is gone") from None
            if now != change.before:
                raise _not_as_expected(change.path, "was changed meanwhile")
            if change.after is None:
                os.rename(target, old)
            else:
                _link(target, old)
                os.rename(staged, target)

    def _take_back(self, work: Path) -> None:
        """Bring the tree back to what it was before an unfinished change set, then forget the change set."""
        if (work / "plan.json").exists():
            plan = self._plan(work)
            waiting = tuple(top + "/" for top, tree in plan.get("trees", {}).items() if (work / tree).exists())
            for index, entry in reversed(list(enumerate(plan["files"]))):
                if entry["path"].startswith(waiting):
                    continue  # its folder was never put there: what stands there now is somebody else's
                target, old = self.root / entry["path"], work / f"old.{index}"
                now = _digest(target.read_bytes()) if target.is_file() else None
                if entry["before"] is None:
                    if (now == entry["after"] and now is not None and not (work / f"new.{index}").exists()) or (
                        now == entry["after"] and now is not None and _same(work / f"new.{index}", target)
                    ):
                        os.unlink(target)
                elif old.exists() and now == entry["after"]:
                    os.replace(old, target)
            self._remove_folders(plan["made_folders"])
        if work.exists():
            away = work.with_suffix(".away")
            os.rename(work, away)
            _clear(away)

    def _tidy(self) -> None:
        for name in sorted(os.listdir(self.folder), reverse=True):
            if name.endswith(".open"):
                self._take_back(self.folder / name)
            elif name.endswith(".away"):
                _clear(self.folder / name)
        numbers = self._numbers()
        if numbers:
            title = self._plan(self.folder / numbers[-1])["title"]
            if title.startswith("\0undo "):
                undone = title.removeprefix("\0undo ")
                made = self._plan(self.folder / undone)["made_folders"] if (self.folder / undone).exists() else []
                self._remove_folders(made)
                self._finish_undo(undone)

    def _finish_undo(self, number: str) -> None:
        """Drop the undone change set, then the change set that undid it: in this order, so that a kill is mended."""
        self._drop(number)
        numbers = self._numbers()
        if numbers and self._plan(self.folder / numbers[-1])["title"] == f"\0undo {number}":
            self._drop(numbers[-1])

    def _drop(self, number: str) -> None:
        folder = self.folder / number
        if folder.exists():
            os.rename(folder, folder.with_suffix(".away"))
            _clear(folder.with_suffix(".away"))

    def _prune(self) -> None:
        for number in self._numbers()[:-KEPT_CHANGES]:
            self._drop(number)

    # -- helpers -------------------------------------------------------------------------------------------------

    def _numbers(self) -> list[str]:
        return sorted(name for name in os.listdir(self.folder) if name.isdigit()) if self.folder.is_dir() else []

    def _next_number(self) -> int:
        numbers = self._numbers()
        return int(numbers[-1]) + 1 if numbers else 1

    def _plan(self, folder: Path) -> dict[str, Any]:
        plan: dict[str, Any] = json.loads((folder / "plan.json").read_text("utf-8"))
        return plan

    def _safe(self, path: str, inside: dict[str, bool]) -> None:
        """Refuse a path that leads out of the host, by dots or by a link.

        inside -- what was found of the folders of earlier paths, and is added to
        """
        target = os.path.join(self.root, path)
        folder = os.path.dirname(target)
        if not self._inside(folder, inside) or os.path.isabs(path) or ".." in path.split("/"):
            raise Refused(
                "path-outside-host", f"{path} leads out of the host's folder.", "Write there by hand if you mean to."
            )
        if os.path.islink(target):
            raise Refused("path-is-link", f"{path} is a symbolic link.", "Change the file that it points at.")

    def _inside(self, folder: str, inside: dict[str, bool]) -> bool:
        """True when a folder, links followed, lies in the host's."""
        if folder not in inside:
            if os.path.lexists(folder):
                root = os.path.realpath(self.root)
                inside[folder] = os.path.join(os.path.realpath(folder), "").startswith(os.path.join(root, ""))
            else:  # not there yet, so it is no link
                inside[folder] = self._inside(os.path.dirname(folder), inside)
        return inside[folder]

    def _remove_folders(self, folders: list[str]) -> None:
        """Remove folders that a change set made, deepest first, unless something else lives there by now."""
        for name in reversed(folders):
            folder = self.root / name
            cache = folder / "__pycache__"
            if cache.is_dir() and {entry.name for entry in folder.iterdir()} == {"__pycache__"}:
                _clear(cache)
            try:
                folder.rmdir()
            except OSError:
                continue


class _NewFolders:
    """Which folders a change set makes; ``made`` are all of them, ``tops`` the highest, each with its staged name."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self.made: dict[str, None] = {}
        self.tops: dict[str, str] = {}
        self._top_of: dict[str, str | None] = {"": None}

    def top_of(self, folder: str) -> str | None:
        """Return the highest new folder that a folder lies in, or is; None for one that is there already."""
        if folder not in self._top_of:
            top = self.top_of(os.path.dirname(folder))
            if top is None and not os.path.lexists(os.path.join(self.root, folder)):
                top = folder
                self.tops[folder] = f"tree.{len(self.tops)}"
            if top is not None:
                self.made[folder] = None
            self._top_of[folder] = top
        return self._top_of[folder]


def _move_tree(tree: str, root: Path, top: str) -> None:
    """Put a staged folder in its place; raises Refused where something else came to be there meanwhile."""
    target = os.path.join(root, top)
    try:
        os.rename(tree, target)
    except OSError as error:
        if error.errno in (errno.ENOTEMPTY, errno.EEXIST, errno.ENOTDIR):
            raise _not_as_expected(top, "came to be meanwhile") from None
        if error.errno != errno.EXDEV:
            raise
        _copy_tree(tree, target)


def _copy_tree(tree: str, target: str) -> None:
    """Put a staged folder on another disk: copied beside its place, then renamed."""
    import shutil

    beside = f"{target}.swift-sprout-part"
    shutil.rmtree(beside, ignore_errors=True)  # of a run that was killed here
    shutil.copytree(tree, beside)
    os.rename(beside, target)
    shutil.rmtree(tree)


def _clear(folder: Path) -> None:
    """Remove a folder with all it holds, as far as that goes."""
    import shutil  # costs much to import, and is seldom needed

    shutil.rmtree(folder, ignore_errors=True)


def _digest(content: bytes | None) -> str | None:
    return None if content is None else digest_of(content)


def _same(one: Path, other: Path) -> bool:
    return one.exists() and os.path.samefile(one, other)


def _link(source: str, target: str) -> None:
    """Give a file a second name, never over an existing one; where links are not to be had, copy it."""
    try:
        os.link(source, target)
    except FileExistsError:
        raise
    except OSError:
        with open(source, "rb") as original, open(target, "xb") as handle:
            handle.write(original.read())
        os.chmod(target, os.stat(source).st_mode & 0o7777)


def _not_as_expected(path: str, what: str) -> Refused:
    return Refused("file-changed-meanwhile", f"{path} {what}; nothing was changed.", "Run the command again.")


def _cannot_write(root: Path, error: OSError) -> Refused:
    reason = (error.strerror or str(error)).lower()
    place = error.filename or root
    remedy = {
        "no space left on device": "Make room on that disk and run the command again.",
        "read-only file system": "The disk is mounted read-only; mount it for writing.",
    }.get(reason, "Give yourself the right to write there, or work as the user who has it.")
    return Refused("cannot-write", f"Cannot write {place}: {reason}; nothing was changed.", remedy)
