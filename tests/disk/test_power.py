"""Loss of power: what a change set does to the disk is recorded, and replayed as far as a file system may have come.

The model is stricter than most file systems: content is on the disk when its file was flushed; what was made, renamed or
taken away in a folder is there when that folder was flushed, and until then any part of it may be, in any order. Only a
renaming is never there by half.
"""

from __future__ import annotations

import os
import random
import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from unittest import mock

from swift_sprout.core.changes import ChangeSet
from swift_sprout.disk import operations
from swift_sprout.disk.journal import Journal

from ..support import Case, tree_of

RECORDED = ("write_new", "write_pieces", "append", "make_folder", "rename", "link", "unlink", "remove_folder")
RANDOM_ORDERS = 6


class Node:
    """A file or folder of the model, known by itself and not by its name."""

    def __init__(self, content: bytes | None = None) -> None:
        self.content = content
        self.entries: dict[str, Node] = {}

    @classmethod
    def of(cls, path: Path) -> Node:
        if not path.is_dir():
            return cls(path.read_bytes())
        node = cls()
        node.entries = {one.name: cls.of(one) for one in path.iterdir()}
        return node


#  one step: what it sets in folders, each as folder, name and what stands there then
Step = list[tuple[Node, str, Node | None]]


class Disk:
    """What a system that goes on sees, and the steps that led there, with those that were flushed."""

    def __init__(self, top: Path) -> None:
        self.top, self.begin = top, Node.of(top)
        self.begun = self._entries(self.begin)
        self.steps: list[Step] = []
        self.flushed: list[set[int]] = [set()]  # after each event, the steps that are surely on the disk
        self.reached: list[int] = [0]  # after each event, how many steps were done

    def _entries(self, node: Node) -> dict[Node, dict[str, Node]]:
        found = {node: dict(node.entries)}
        for one in node.entries.values():
            found |= self._entries(one)
        return found

    def _find(self, path: str) -> Node:
        node = self.begin
        for part in Path(path).relative_to(self.top).parts:
            node = node.entries[part]
        return node

    def _place(self, path: str) -> tuple[Node, str]:
        return self._find(os.path.dirname(path)), os.path.basename(path)

    def record(self, name: str, *words: Any) -> None:
        if name == "flush_folder":
            folder = self._find(words[0]) if os.path.isdir(words[0]) else None
            more = {number for number, step in enumerate(self.steps) if any(one is folder for one, _, _ in step)}
            self.flushed.append(self.flushed[-1] | more)
            self.reached.append(len(self.steps))
            return
        step: Step = []
        if name in ("write_new", "write_pieces"):
            step = [(*self._place(words[0]), Node(Path(words[0]).read_bytes()))]
        elif name == "append":
            folder, entry = self._place(words[0])
            step = [(folder, entry, Node(Path(words[0]).read_bytes()))]
        elif name == "make_folder":
            step = [(*self._place(words[0]), Node())]
        elif name in ("unlink", "remove_folder"):
            step = [(*self._place(words[0]), None)]
        elif name in ("rename", "link"):
            step = [(*self._place(words[1]), self._find(words[0]))]
            if name == "rename":
                step.append((*self._place(words[0]), None))
        _carry_out(step, {one: one.entries for one, _, _ in step})
        self.steps.append(step)
        self.flushed.append(self.flushed[-1])
        self.reached.append(len(self.steps))

    def crashes(self) -> Iterator[tuple[str, set[int]]]:
        """Yield, for each moment, the sets of steps that may be on the disk."""
        chance = random.Random(11)
        seen: set[tuple[int, ...]] = set()
        for moment, (flushed, reached) in enumerate(zip(self.flushed, self.reached, strict=True)):
            loose = [number for number in range(reached) if number not in flushed]
            choices = [set(loose), set(), *({*loose} - {one} for one in loose), *({one} for one in loose)]
            choices += [{one for one in loose if chance.random() < 0.5} for _ in range(RANDOM_ORDERS)]
            for kept in choices:
                whole = kept | flushed
                if (key := tuple(sorted(whole))) not in seen:
                    seen.add(key)
                    yield f"moment {moment}, without {sorted(set(loose) - kept)}", whole

    def write(self, kept: set[int], target: Path) -> None:
        """Write what the disk holds then."""
        entries = {node: dict(held) for node, held in self.begun.items()}
        for number in sorted(kept):
            for folder, _, _ in self.steps[number]:
                entries.setdefault(folder, {})
            _carry_out(self.steps[number], entries)
        _written(self.begin, entries, target, {})


def _carry_out(step: Step, entries: dict[Node, dict[str, Node]]) -> None:
    for folder, name, node in step:
        if node is None:
            entries[folder].pop(name, None)
        else:
            entries[folder][name] = node


def _written(node: Node, entries: dict[Node, dict[str, Node]], target: Path, names: dict[Node, Path]) -> None:
    """Write what stands at a place; ``names`` are the files that have one name already."""
    if node in names:
        os.link(names[node], target)
    elif node.content is not None:
        target.write_bytes(node.content)
        names[node] = target
    else:
        target.mkdir(mode=0o700)
        for name, one in entries.get(node, {}).items():
            _written(one, entries, target / name, names)


@contextmanager
def recorded(disk: Disk) -> Iterator[None]:
    """Record all that is done to the disk while the block runs."""

    def watched(name: str) -> Callable[..., Any]:
        real = getattr(operations, name)

        def call(*words: Any) -> Any:
            if name != "unlink" and name != "rename" and name != "remove_folder":
                done = real(*words)
                disk.record(name, *words)
                return done
            if not os.path.lexists(words[0]):
                return real(*words)
            if name == "remove_folder" and os.listdir(words[0]):
                return real(*words)
            done = real(*words)
            disk.record(name, *words)
            return done

        return call

    patches = [mock.patch.object(operations, name, watched(name)) for name in (*RECORDED, "flush_folder")]
    for patch in patches:
        patch.start()
    try:
        yield
    finally:
        for patch in patches:
            patch.stop()


class PowerLoss(Case):
    """At whatever moment the power goes, the next run brings back the tree before, or leaves the one after."""

    in_memory = True

    def setUp(self) -> None:
        super().setUp()
        self.write("disk/site/settings.py", "LIST = []\n")
        self.write("disk/site/old.txt", "to be taken away\n")
        self.write("disk/site/inner/urls.py", "urlpatterns = []\n")
        self.disk = self.folder / "disk"

    def journal(self, top: Path) -> Journal:
        return Journal(top / "site", place=top / "state")

    def changes(self) -> ChangeSet:
        changes = ChangeSet("try")
        changes.add("tide_board/models.py", None, b"model\n")
        changes.add("tide_board/deep/views.py", None, b"view\n")
        changes.add("inner/new.py", None, b"new\n")
        changes.add("settings.py", b"LIST = []\n", b"LIST = ['tide_board']\n")
        changes.add("inner/urls.py", b"urlpatterns = []\n", b"urlpatterns = [tide_board]\n")
        changes.add("old.txt", b"to be taken away\n", None)
        return changes

    def every_crash(self, work: Callable[[Journal], object]) -> int:
        """Do work, cut the power at every moment of it, and judge; returns how often."""
        before = tree_of(self.disk / "site")
        disk = Disk(self.disk)
        with recorded(disk):
            work(self.journal(self.disk))
        after = tree_of(self.disk / "site")
        self.assertNotEqual(before, after)
        return self.assert_each_ends_as(disk, before, after)

    def assert_each_ends_as(self, disk: Disk, *allowed: dict[str, bytes]) -> int:
        """After each cut, have the next run leave one of the trees, and nothing half-written; returns the number."""
        count = 0
        for what, kept in disk.crashes():
            top = self.folder / "after-the-cut"
            disk.write(kept, top)
            with self.journal(top).writing("look"):
                pass
            self.assertIn(tree_of(top / "site"), allowed, what)
            self.assertEqual(self.journal(top).half_written(), "", what)
            shutil.rmtree(top)
            count += 1
        return count

    def test_while_a_change_set_is_applied(self):
        def work(journal: Journal) -> None:
            with journal.writing("try"):
                journal.apply(self.changes())

        self.assertGreater(self.every_crash(work), 150)

    def test_while_a_change_set_is_undone(self):
        journal = self.journal(self.disk)
        with journal.writing("try"):
            number = journal.apply(self.changes())

        def work(journal: Journal) -> None:
            with journal.writing("undo"):
                journal.undo(number)

        self.assertGreater(self.every_crash(work), 150)

    def test_while_a_killed_run_is_taken_back(self):
        journal = self.journal(self.disk)
        seen = 0
        real = operations.rename

        def stopping(source: str, target: str) -> None:
            nonlocal seen
            seen += 1
            if seen == 4:
                os._exit(0)  # as one that is killed
            real(source, target)

        child = os.fork()
        if child == 0:
            with mock.patch.object(operations, "rename", stopping), journal.writing("try"):
                journal.apply(self.changes())
            os._exit(1)
        self.assertEqual(os.waitpid(child, 0)[1], 0)
        self.assertTrue(journal.half_written())
        self.assertGreater(self.every_taking_back(), 15)

    def every_taking_back(self) -> int:
        """Cut the power at every moment of taking back; the next run comes to the same end."""
        disk = Disk(self.disk)
        with recorded(disk):
            self.journal(self.disk).recover()
        after = tree_of(self.disk / "site")
        self.assertEqual(after["settings.py"], b"LIST = []\n")
        return self.assert_each_ends_as(disk, after)
