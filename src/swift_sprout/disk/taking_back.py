"""Taking back what an unfinished change set did to a host's tree: by its plan, file by file, and nothing else.

What a person did meanwhile is left as it is: then the old content stays in the work folder, and its place is told.
"""

from __future__ import annotations

import os
import stat
from collections.abc import Iterator
from pathlib import Path

from . import operations
from .attributes import give
from .digests import digest_of
from .inside import InsideHost
from .plan import Plan, PlannedFile

EMPTY = digest_of(b"")


class TakingBack:
    """One unfinished change set; ``unsure`` are the paths that somebody else changed after it."""

    def __init__(self, root: Path, work: Path, plan: Plan) -> None:
        self._root = str(root)
        self._work = str(work)
        self._plan = plan
        self._inside = InsideHost(self._root)
        self._touched: dict[str, None] = {}
        self.unsure: list[str] = []

    def run(self) -> None:
        """Bring the tree back; raises OSError where the disk does not take it: to be tried again by the next run."""
        plan = self._plan
        waiting = []
        for index, top in enumerate(plan.tops):
            if not self._inside.holds(top):
                continue
            tree = plan.staged_top(self._root, index)
            if os.path.lexists(tree):
                waiting.append(top + "/")
                self._clear(tree)
        for index, one in reversed(list(enumerate(plan.files))):
            if one.path.startswith(tuple(waiting)) or not self._inside.holds(one.path):
                continue  # its folder was never put there: what stands there now is somebody else's
            self._touched[os.path.dirname(os.path.join(self._root, one.path))] = None
            self._take_back(index, one)
        remove_folders(self._root, plan.made_folders, self._inside)
        for folder in self._touched:
            operations.flush_folder(folder)

    def _take_back(self, index: int, one: PlannedFile) -> None:
        target = os.path.join(self._root, one.path)
        staged, aside = self._plan.staged(self._root, index), self._plan.aside(self._root, index)
        now, waits = digest_at(target), os.path.lexists(staged)
        if one.before is None:
            self._take_away(target, staged, now, one)
        elif one.after is None:
            if not os.path.lexists(target):
                self._bring_back(index, one, target, aside)
            elif now != one.before:
                self.unsure.append(one.path)
        elif not waits and now != one.before:
            if now == one.after:
                self._bring_back(index, one, target, aside)
            else:
                self.unsure.append(one.path)
        for path in (staged, aside):
            if os.path.lexists(path):
                operations.unlink(path)

    @staticmethod
    def _take_away(target: str, staged: str, now: str | None, one: PlannedFile) -> None:
        """Take away a file that was made, unless it is somebody else's."""
        if os.path.lexists(staged):
            held = now == EMPTY and os.lstat(target).st_size == 0  # it only held the place
            ours = now is not None and (held or os.path.samefile(staged, target))
        else:
            ours = now is not None and now == one.after
        if ours:
            operations.unlink(target)

    def _bring_back(self, index: int, one: PlannedFile, target: str, aside: str) -> None:
        """Bring back the very file where a second name of it is left, else one with its content and attributes."""
        same = os.path.join(self._work, f"same.{index}")
        if digest_at(aside) == one.before:
            operations.rename(aside, target)
            return
        fresh = self._plan.staged(self._root, index)
        if os.path.lexists(fresh):
            operations.unlink(fresh)
        try:
            if digest_at(same) != one.before:
                raise OSError
            operations.link(same, fresh)
        except OSError:
            content = operations.read_plain(os.path.join(self._work, f"old.{index}"))
            operations.write_new(fresh, content, operations.ALONE)
            assert one.attributes is not None
            give(fresh, one.attributes)
        operations.rename(fresh, target)

    def _clear(self, tree: str) -> None:
        """Take a staged folder away: nobody else has put anything into it."""
        import shutil

        shutil.rmtree(tree, ignore_errors=True)
        self._touched[os.path.dirname(tree)] = None


def digest_at(path: str) -> str | None:
    """Return the digest of a plain file's content; None where there is none, or it cannot be read."""
    try:
        return digest_of(operations.read_plain(path))
    except OSError:
        return None


def remove_folders(root: str, folders: list[str], inside: InsideHost) -> None:
    """Remove folders that a change set made, deepest first, unless something else lives there by now."""
    for name in reversed(folders):
        folder = os.path.join(root, name)
        if not inside.holds(name) or not _is_folder(folder):
            continue
        if [*_names(folder)] == ["__pycache__"] and _is_folder(os.path.join(folder, "__pycache__")):
            import shutil

            shutil.rmtree(os.path.join(folder, "__pycache__"), ignore_errors=True)
        try:
            operations.remove_folder(folder)
            operations.flush_folder(os.path.dirname(folder))
        except OSError:
            continue


def _is_folder(path: str) -> bool:
    try:
        return stat.S_ISDIR(os.lstat(path).st_mode)
    except OSError:
        return False


def _names(folder: str) -> Iterator[str]:
    try:
        yield from os.listdir(folder)
    except OSError:
        return
