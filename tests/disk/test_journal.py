"""The journal: killed or failing at every single file operation, the tree is the one before or the one after."""

import errno
import os
import signal
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any
from unittest import mock

from swift_sprout.core.changes import ChangeSet
from swift_sprout.core.errors import Refused
from swift_sprout.disk.journal import Journal

from ..support import Case, tree_of

OPERATIONS = ("link", "rename", "unlink", "replace", "mkdir", "rmdir", "chmod")


def interrupted_at(number: int, act: Callable[[], None], work: Callable[[], object]) -> int:
    """Do work, but call ``act`` before its n-th file operation; returns how many there were."""
    seen = 0

    def counting(real: Callable[..., Any]) -> Callable[..., Any]:
        def step(*arguments, **keywords):
            nonlocal seen
            seen += 1
            if seen == number:
                act()
            return real(*arguments, **keywords)

        return step

    patches = [mock.patch.object(os, name, counting(getattr(os, name))) for name in OPERATIONS]
    patches.append(mock.patch.object(Path, "write_bytes", counting(Path.write_bytes)))
    patches.append(mock.patch.object(Path, "write_text", counting(Path.write_text)))
    for patch in patches:
        patch.start()
    try:
        work()
    finally:
        for patch in patches:
            patch.stop()
    return seen


class JournalCase(Case):
    def setUp(self) -> None:
        super().setUp()
        self.write("site/settings.py", "LIST = []\n")
        self.write("site/old.txt", "to be taken away\n")
        self.write("site/script.sh", "echo\n").chmod(0o750)
        self.root = self.folder / "site"

    def changes(self) -> ChangeSet:
        changes = ChangeSet("try")
        changes.add("tide_board/models.py", None, b"model\n")
        changes.add("tide_board/deep/er/views.py", None, b"view\n")
        changes.add("settings.py", b"LIST = []\n", b"LIST = ['tide_board']\n")
        changes.add("old.txt", b"to be taken away\n", None)
        changes.add("script.sh", b"echo\n", b"echo tide\n")
        return changes

    def apply(self) -> str:
        journal = Journal(self.root)
        with journal.writing("try"):
            return journal.apply(self.changes())

    def undo(self) -> None:
        journal = Journal(self.root)
        last = journal.last()
        assert last is not None
        with journal.writing("undo"):
            journal.undo(last.number)

    def in_child(self, number: int, work: Callable[[], object]) -> bool:
        """Do work in a process that kills itself at its n-th file operation; False when it came to the end."""
        child = os.fork()
        if child == 0:
            try:
                interrupted_at(number, lambda: os.kill(os.getpid(), signal.SIGKILL), work)
                os._exit(0)
            except BaseException:
                os._exit(7)
        _, status = os.waitpid(child, 0)
        self.assertIn(status, (0, signal.SIGKILL), "the child failed by itself")
        return os.WIFSIGNALED(status)

    def folders(self) -> set[str]:
        found = {path.relative_to(self.root).as_posix() for path in self.root.rglob("*") if path.is_dir()}
        return {name for name in found if not name.startswith(".swift-sprout")}


class Killed(JournalCase):
    def test_apply_killed_at_every_operation(self):
        before = tree_of(self.root)
        number, kills = 0, 0
        while True:
            number += 1
            killed = self.in_child(number, self.apply)
            Journal(self.root).recover()
            now = tree_of(self.root)
            if not killed:
                break
            kills += 1
            if now != before:  # killed after the moment at which it counted as done
                self.assertEqual(now["settings.py"], b"LIST = ['tide_board']\n", number)
                self.assertNotIn("old.txt", now)
                self.undo()
                self.assertEqual(tree_of(self.root), before, number)
            self.assertEqual(self.folders(), set(), number)
        self.assertGreater(kills, 14)
        self.assertEqual(now["tide_board/models.py"], b"model\n")

    def test_undo_killed_at_every_operation(self):
        before = tree_of(self.root)
        self.apply()
        after = tree_of(self.root)
        number = 0
        while True:
            number += 1
            killed = self.in_child(number, self.undo)
            Journal(self.root).recover()
            with Journal(self.root).writing("look"):
                pass
            now = tree_of(self.root)
            if not killed:
                break
            self.assertIn(now, (before, after), number)
            if now == before:
                self.assertIsNone(Journal(self.root).last(), number)
                self.assertEqual(self.folders(), set(), number)
                self.apply()
        self.assertGreater(number, 12)
        self.assertEqual(now, before)

    def test_recovery_killed_at_every_operation(self):
        before = tree_of(self.root)
        number, killed = 0, True
        while killed:
            number += 1
            self.assertTrue(self.in_child(15, self.apply), "nothing was left to take back")
            killed = self.in_child(number, Journal(self.root).recover)
            Journal(self.root).recover()
            if tree_of(self.root) != before:
                self.undo()
            self.assertEqual(tree_of(self.root), before, number)
        self.assertGreater(number, 4)


class Failing(JournalCase):
    def failing(self, number: int, code: int) -> Callable[[], object]:
        def act() -> None:
            raise OSError(code, os.strerror(code), "somewhere")

        return lambda: interrupted_at(number, act, self.apply)

    def test_every_operation_failing_changes_nothing(self):
        before = tree_of(self.root)
        for code in (errno.ENOSPC, errno.EACCES, errno.EROFS):
            for number in range(1, 60):
                try:
                    self.failing(number, code)()
                except Refused:
                    pass
                else:
                    if tree_of(self.root) != before:
                        self.undo()
                        if number > 50:
                            break
                self.assertEqual(tree_of(self.root), before, (number, code))
                Journal(self.root).recover()
                self.assertEqual(tree_of(self.root), before, (number, code))

    def test_every_operation_of_an_undo_failing_leaves_one_of_the_two(self):
        before = tree_of(self.root)
        self.apply()
        after = tree_of(self.root)
        for number in range(1, 40):

            def act() -> None:
                raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC), "somewhere")

            try:
                interrupted_at(number, act, self.undo)
            except (Refused, OSError):
                pass
            Journal(self.root).recover()
            with Journal(self.root).writing("look"):
                pass
            now = tree_of(self.root)
            self.assertIn(now, (before, after), number)
            if now == before:
                self.apply()


class Rules(JournalCase):
    def test_modes_are_kept_and_restored(self):
        self.apply()
        self.assertEqual((self.root / "script.sh").stat().st_mode & 0o777, 0o750)
        self.undo()
        self.assertEqual((self.root / "script.sh").stat().st_mode & 0o777, 0o750)

    def test_a_file_that_came_to_be_meanwhile_is_not_overwritten(self):
        self.write("site/tide_board/deep/er/views.py", "mine\n")
        before = tree_of(self.root)
        with self.assertRaises(Refused) as caught:
            self.apply()
        self.assertEqual(caught.exception.code, "file-changed-meanwhile")
        self.assertEqual(tree_of(self.root), before)

    def test_a_file_that_was_changed_meanwhile_is_not_overwritten(self):
        self.write("site/script.sh", "mine\n")
        before = tree_of(self.root)
        with self.assertRaises(Refused):
            self.apply()
        self.assertEqual(tree_of(self.root), before)

    def test_undo_refuses_to_lose_later_work(self):
        self.apply()
        self.write("site/tide_board/models.py", "worked on\n")
        before = tree_of(self.root)
        with self.assertRaises(Refused) as caught:
            self.undo()
        self.assertEqual([one.place for one in caught.exception.problems], ["tide_board/models.py"])
        self.assertEqual(tree_of(self.root), before)

    def test_undo_leaves_folders_in_which_others_work(self):
        self.apply()
        self.write("site/tide_board/deep/mine.txt", "mine\n")
        self.write("site/tide_board/__pycache__/x.pyc", "byte code")
        self.undo()
        self.assertEqual((self.root / "tide_board/deep/mine.txt").read_text(), "mine\n")

    def test_paths_and_links_that_lead_out_are_refused(self):
        (self.root / "out").symlink_to(self.folder)
        (self.root / "link.py").symlink_to(self.root / "settings.py")
        for path in ("../x", "/tmp/x", "out/x", "a/../../x", "link.py"):
            changes = ChangeSet("out")
            before = (self.root / path).read_bytes() if path == "link.py" else None
            changes.add(path, before, b"x")
            journal = Journal(self.root)
            with self.subTest(path), self.assertRaises(Refused), journal.writing("out"):
                journal.apply(changes)
        self.assertFalse((self.folder / "x").exists())

    def test_writers_wait_for_each_other(self):
        told: list[str] = []
        holding, free = threading.Event(), threading.Event()

        def hold() -> None:
            with Journal(self.root).writing("enable tide_board"):
                holding.set()
                free.wait(10)

        thread = threading.Thread(target=hold)
        thread.start()
        holding.wait(10)
        with self.assertRaises(Refused) as caught, Journal(self.root).writing("new", 0.2, told.append):
            pass
        self.assertEqual(caught.exception.code, "host-busy")
        self.assertIn("enable tide_board", told[0])
        free.set()
        with Journal(self.root).writing("new", 10):
            thread.join(5)
