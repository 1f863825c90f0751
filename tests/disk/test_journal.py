"""The journal: killed or failing at every single file operation, the tree is the one before or the one after."""

import errno
import os
import signal
import subprocess
import threading
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any
from unittest import mock

from swift_sprout.core.changes import ChangeSet
from swift_sprout.core.errors import Refused
from swift_sprout.disk import operations
from swift_sprout.disk.attributes import attributes_of
from swift_sprout.disk.journal import Journal

from ..support import Case, tree_of

CHANGING = ("write_new", "write_pieces", "append", "make_folder", "rename", "link", "unlink", "remove_folder")
FLUSHING = ("flush_folder",)  # which never fails: a file system that cannot is worked on all the same


def interrupted_at(
    number: int, act: Callable[[], None], work: Callable[[], object], names: tuple[str, ...] = CHANGING
) -> int:
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

    patches = [mock.patch.object(operations, name, counting(getattr(operations, name))) for name in names]
    for patch in patches:
        patch.start()
    try:
        work()
    finally:
        for patch in patches:
            patch.stop()
    return seen


class JournalCase(Case):
    in_memory = True

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
                interrupted_at(number, lambda: os.kill(os.getpid(), signal.SIGKILL), work, CHANGING + FLUSHING)
                os._exit(0)
            except BaseException:
                os._exit(7)
        _, status = os.waitpid(child, 0)
        self.assertIn(status, (0, signal.SIGKILL), "the child failed by itself")
        return os.WIFSIGNALED(status)

    def folders(self) -> set[str]:
        return {path.relative_to(self.root).as_posix() for path in self.root.rglob("*") if path.is_dir()}


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


class WithoutLinks(Killed):
    """The same where the file system has no hard links, as many in networks and containers have not."""

    def setUp(self) -> None:
        super().setUp()

        def refused(*_: object) -> None:
            raise OSError(errno.EPERM, os.strerror(errno.EPERM))

        patch = mock.patch.object(operations, "link", refused)
        patch.start()
        self.addCleanup(patch.stop)


class OnAnotherDisk(Killed):
    """The same where the state lies on another disk than the host."""

    def setUp(self) -> None:
        super().setUp()
        real = operations.link

        def refused(source: str, target: str) -> None:
            if self.root.as_posix() in source and self.root.as_posix() not in target:
                raise OSError(errno.EXDEV, os.strerror(errno.EXDEV))
            real(source, target)

        patch = mock.patch.object(operations, "link", refused)
        patch.start()
        self.addCleanup(patch.stop)


class Kept(JournalCase):
    """What a file has besides its content comes through an edit and through its undoing."""

    def test_extended_attributes_are_kept_and_restored(self):
        script, old = self.root / "script.sh", self.root / "old.txt"
        try:
            os.setxattr(script, "user.quay", b"north")
            os.setxattr(old, "user.quay", b"south")
        except OSError:
            self.skipTest("no extended attributes on this file system")
        self.apply()
        self.assertEqual(os.getxattr(script, "user.quay"), b"north")
        self.undo()
        self.assertEqual(os.getxattr(script, "user.quay"), b"north")
        self.assertEqual(os.getxattr(old, "user.quay"), b"south")

    @unittest.skipIf(os.geteuid(), "only the superuser can give files away")
    def test_owners_are_kept_and_restored(self):
        for name in ("script.sh", "old.txt"):
            os.chown(self.root / name, 65534, 65534)
        self.apply()
        self.assertEqual((self.root / "script.sh").stat().st_uid, 65534)
        self.undo()
        self.assertEqual({(self.root / name).stat().st_uid for name in ("script.sh", "old.txt")}, {65534})

    def test_an_owner_that_cannot_be_kept_is_told(self):
        told: list[str] = []
        wanted = attributes_of(str(self.root / "script.sh"))._replace(owner=4242, mode=0o4755)
        with (
            mock.patch.object(os, "chown", side_effect=PermissionError),
            mock.patch("swift_sprout.disk.applying.attributes_of", return_value=wanted),
        ):
            journal = Journal(self.root, told.append)
            with journal.writing("try"):
                journal.apply(self.changes())
        self.assertIn("script.sh: its owner could not be kept.", told)
        self.assertEqual((self.root / "script.sh").stat().st_mode & 0o7777, 0o755, "runs with the rights of another")

    def test_a_second_name_is_told_of_and_is_one_file_again_after_undo(self):
        other = self.folder / "other.sh"
        os.link(self.root / "script.sh", other)
        told: list[str] = []
        journal = Journal(self.root, told.append, self.folder / "state")
        with journal.writing("try"):
            number = journal.apply(self.changes())
        self.assertEqual(other.read_bytes(), b"echo\n")
        self.assertTrue(any("script.sh has a second name" in one for one in told), told)
        with journal.writing("undo"):
            journal.undo(number)
        self.assertTrue(os.path.samefile(other, self.root / "script.sh"))

    def test_undo_refuses_when_what_was_kept_is_damaged(self):
        self.apply()
        journal = Journal(self.root)
        kept = next(journal.folder.glob("*/old.*"))
        kept.write_bytes(b"somebody was here")
        before = tree_of(self.root)
        with self.assertRaises(Refused) as caught:
            self.undo()
        self.assertIn("damaged", caught.exception.problems[0].what)
        self.assertEqual(tree_of(self.root), before)

    def test_what_a_person_did_after_a_killed_run_stays_and_the_old_content_is_told_of(self):
        settings = self.root / "settings.py"
        for number in range(1, 60):
            self.assertTrue(self.in_child(number, self.apply))
            if settings.read_bytes() != b"LIST = []\n":
                break
            Journal(self.root).recover()
        settings.write_bytes(b"LIST = ['tide_board']  # the harbour master was here\n")
        told: list[str] = []
        Journal(self.root, told.append).recover()
        self.assertIn(b"harbour master", settings.read_bytes())
        self.assertIn("settings.py changed after the interrupted run", told[0])
        place = Path(told[0].rpartition(" kept in ")[2].rstrip("."))
        self.assertIn(b"LIST = []\n", [path.read_bytes() for path in place.iterdir()])
        self.assertEqual((self.root / "old.txt").read_bytes(), b"to be taken away\n")


@unittest.skipIf(os.geteuid(), "only the superuser can mount")
class Mounts(JournalCase):
    """Files and folders of the host that lie on other mounts."""

    def mount(self, *words: str | Path) -> None:
        if subprocess.run(["mount", *map(str, words)], capture_output=True).returncode:
            self.skipTest("no right to mount here")
        self.addCleanup(subprocess.run, ["umount", str(words[-1])], check=True)

    def test_a_file_that_is_a_mount_of_its_own_is_refused_with_all_as_before(self):
        other = self.write("other.txt", "to be taken away\n")
        self.mount("--bind", other, self.root / "old.txt")
        before = tree_of(self.root)
        with self.assertRaises(Refused):
            self.apply()
        self.assertEqual(tree_of(self.root), before)
        self.assertEqual(other.read_text(), "to be taken away\n")

    def test_a_folder_on_another_mount_is_worked_on_and_back(self):
        inner = self.root / "inner"
        inner.mkdir()
        self.mount("-t", "tmpfs", "-o", "size=1m", "tmpfs", inner)
        self.write("site/inner/settings.py", "LIST = []\n")
        before = tree_of(self.root)
        changes = self.changes()
        changes.add("inner/settings.py", b"LIST = []\n", b"LIST = [1]\n")
        changes.add("inner/new/deep.py", None, b"deep\n")
        journal = Journal(self.root)
        with journal.writing("try"):
            journal.apply(changes)
        self.assertEqual((inner / "settings.py").read_bytes(), b"LIST = [1]\n")
        self.undo()
        self.assertEqual(tree_of(self.root), before)

    def test_a_folder_that_is_mounted_read_only_is_refused_with_all_as_before(self):
        inner = self.root / "inner"
        self.write("site/inner/settings.py", "LIST = []\n")
        before = tree_of(self.root)
        self.mount("--bind", inner, inner)
        subprocess.run(["mount", "-o", "remount,bind,ro", str(inner)], check=True)
        changes = self.changes()
        changes.add("inner/settings.py", b"LIST = []\n", b"LIST = [1]\n")
        journal = Journal(self.root)
        with self.assertRaises(Refused) as caught, journal.writing("try"):
            journal.apply(changes)
        self.assertIn("read-only", caught.exception.sentence)
        self.assertEqual(tree_of(self.root), before)


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
        with self.assertRaises(Refused) as caught, Journal(self.root, told.append).writing("new", 0.2):
            pass
        self.assertEqual(caught.exception.code, "host-busy")
        self.assertIn("enable tide_board", told[0])
        free.set()
        with Journal(self.root).writing("new", 10):
            thread.join(5)
