"""State: what lies in a host's folder is nobody's word, the user's own is private, and half-written work is told of."""

import hashlib
import itertools
import json
import os
import shutil
import signal
import subprocess
import sys
import unittest
from typing import Any

from swift_sprout.disk.journal import Journal

from ..support import STATE, SiteCase, host_python, tree_of

READING = (("check", "--static"), ("survey", "--static"), ("graph",), ("show", "files", "ferries"))


def digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


class EarlierState(SiteCase):
    """A folder of the form that earlier versions kept in the host: theirs, or somebody's who means harm."""

    def setUp(self) -> None:
        super().setUp()
        self.outside = self.write("outside/precious.txt", "precious\n")
        self.old = self.site / ".swift-sprout"

    def put_set(self, name: str, plan: Any, **kept: bytes) -> None:
        folder = self.old / "changes" / name
        folder.mkdir(parents=True)
        (folder / "plan.json").write_text(plan if isinstance(plan, str) else json.dumps(plan))
        for number, content in kept.items():
            (folder / f"old.{number[1:]}").write_bytes(content)

    def hostile(self) -> list[Any]:
        """Plans that lead out, name folders to be deleted, or are of no form at all."""
        new, there = digest(b"made\n"), digest(b"precious\n")
        outside = str(self.outside)
        climbing = os.path.relpath(self.outside, self.site)
        plans: list[Any] = []
        for path, (before, after) in itertools.product(
            (outside, climbing, f"ferries/../{climbing}", "", ".", "a\0b"), ((None, there), (there, None), (new, there))
        ):
            entry = {"path": path, "before": before, "after": after}
            plans.append({"title": "x", "files": [entry], "made_folders": [], "trees": {}})
        good: dict[str, Any] = {"title": "x", "files": [], "made_folders": [], "trees": {}}
        parent = str(self.outside.parent)
        plans += [{**good, "made_folders": [parent]}, {**good, "made_folders": ["../outside"]}]
        plans += [{**good, "title": f"\0undo ../../../{parent}"}, {**good, "title": 3}, {**good, "files": {}}]
        plans += [{**good, "files": [[]]}, {**good, "files": [{}]}, {**good, "made_folders": "ferries"}]
        plans += ["", "[", "[]", "null", "[" * 100_000, json.dumps(good)[:-1], '{"files": 1}']
        return plans

    def test_hostile_plans_are_neither_followed_nor_in_the_way(self):
        for number, plan in enumerate(self.hostile()):
            name = f"{number + 1:06d}" + (".open" if number % 2 else "")
            self.put_set(name, plan, n0=b"made\n", n1=b"x")
        (self.old / "lock").symlink_to(self.outside)
        (self.old / ".gitignore").symlink_to(self.outside.parent / "made-through-a-link")
        before, outside = tree_of(self.site), tree_of(self.outside.parent)
        for words in READING:
            ran = self.sprout(*words)
            self.assertIn(ran.status, (0, 1), ran.err)
            self.assertIn("nothing there is used", ran.err)
        self.assert_ok(self.sprout("undo"), 4)
        self.assertEqual(tree_of(self.site), before)
        self.assert_ok(self.sprout("new", "Signal mast"))
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(tree_of(self.site), before)
        self.assertEqual(tree_of(self.outside.parent), outside)

    def test_hostile_plans_are_refused_one_by_one_on_request(self):
        for plan in self.hostile():
            for name in ("000001", "000001.open"):
                with self.subTest(str(plan)[:100], name=name):
                    shutil.rmtree(self.old, ignore_errors=True)
                    self.put_set(name, plan, n0=b"made\n")
                    before, outside = tree_of(self.folder), tree_of(self.outside.parent)
                    ran = self.assert_ok(self.sprout("undo", "--earlier-state"), 4)
                    self.assertIn(f".swift-sprout/changes/{name}", ran.err)
                    self.assertEqual(tree_of(self.folder), before)
                    self.assertEqual(tree_of(self.outside.parent), outside)

    def test_a_state_folder_that_is_a_link_leads_nowhere(self):
        elsewhere = self.folder / "elsewhere"
        (elsewhere / "changes/000001.open").mkdir(parents=True)
        self.old.symlink_to(elsewhere)
        before = tree_of(elsewhere)
        for words in (*READING, ("new", "Signal mast"), ("undo",)):
            self.assertIn(self.sprout(*words).status, (0, 1))
        self.assert_ok(self.sprout("undo", "--earlier-state"), 4)
        self.assertEqual(tree_of(elsewhere), before)

    def test_a_valid_one_is_taken_over_once_and_can_be_undone(self):
        made, settings = b"# a mast\n", (self.site / "brindle_quay/settings.py").read_bytes()
        plain = tree_of(self.site)
        self.put("mast/models.py", made.decode())
        self.put("brindle_quay/settings.py", settings.decode() + "# mast\n")
        files = [
            {"path": "mast/models.py", "before": None, "after": digest(made)},
            {"path": "brindle_quay/settings.py", "before": digest(settings), "after": digest(settings + b"# mast\n")},
        ]
        plan = {"title": "new mast", "files": files, "made_folders": ["mast"], "trees": {"mast": "tree.0"}}
        self.put_set("000001", plan, n1=settings)
        half = self.put("half.txt", "half-written\n")
        entry = {"path": "half.txt", "before": None, "after": digest(half.read_bytes())}
        self.put_set("000002.open", {"title": "new half", "files": [entry], "made_folders": [], "trees": {}})
        ran = self.assert_ok(self.sprout("undo", "--earlier-state"))
        self.assertIn("new mast", ran.out)
        self.assertFalse(half.exists())
        self.assertFalse(self.old.exists())
        ran = self.assert_ok(self.sprout("undo"))  # the newest is the taking back of what stood half-written
        ran = self.assert_ok(self.sprout("undo"))
        half.unlink(missing_ok=True)
        self.assertEqual(tree_of(self.site), plain)
        self.assert_ok(self.sprout("undo", "--earlier-state"), 4)


class OwnState(SiteCase):
    """The user's own state: closed to others, never behind a link, and not in the host's folder."""

    def test_nothing_of_ours_lies_in_the_host_and_what_is_kept_is_private(self):
        self.assert_ok(self.sprout("new", "Signal mast"))
        self.assert_ok(self.sprout("enable", "signal_mast"))
        self.assertFalse(list(self.site.rglob(".swift-sprout*")))
        kept = Journal(self.site).state
        for path in (STATE, STATE / "hosts", kept, *kept.rglob("*")):
            wanted = 0o700 if path.is_dir() else 0o600
            self.assertEqual(path.stat().st_mode & 0o777, wanted, path)

    def test_a_state_folder_open_to_others_is_closed(self):
        self.assert_ok(self.sprout("new", "Signal mast"))
        os.chmod(Journal(self.site).state, 0o777)
        self.assert_ok(self.sprout("enable", "signal_mast"))
        self.assertEqual(Journal(self.site).state.stat().st_mode & 0o777, 0o700)

    def test_a_link_or_a_file_in_its_place_is_refused(self):
        before = tree_of(self.site)
        aim = self.folder / "aim"
        aim.mkdir(mode=0o700)
        own = self.folder / "own"
        own.mkdir(mode=0o700)
        for what in ("link", "file"):
            with self.subTest(what):
                place = own / "hosts"
                place.unlink(missing_ok=True)
                place.symlink_to(aim) if what == "link" else place.write_text("")
                ran = self.assert_ok(self.sprout("new", "Signal mast", SWIFT_SPROUT_STATE=str(own)), 4)
                self.assertIn("SWIFT_SPROUT_STATE", ran.err)
                self.assertEqual(tree_of(self.site), before)
                self.assertEqual(list(aim.iterdir()), [])
                self.assert_ok(self.sprout("survey", "--static", SWIFT_SPROUT_STATE=str(own)))

    @unittest.skipIf(os.geteuid(), "only the superuser can give folders away")
    def test_a_folder_of_somebody_else_is_refused(self):
        own = self.folder / "own"
        own.mkdir(mode=0o700)
        os.chown(own, 65534, 65534)
        ran = self.assert_ok(self.sprout("new", "Signal mast", SWIFT_SPROUT_STATE=str(own)), 4)
        self.assertIn("belongs to another user", ran.err)
        self.assertFalse((self.site / "signal_mast").exists())

    def test_a_plan_of_ours_that_is_damaged_blocks_nothing(self):
        self.assert_ok(self.sprout("new", "Signal mast"))
        plan = next(Journal(self.site).state.rglob("plan.json"))
        for text in ("", "[" * 50_000, '{"files": [["../../x", null, "0", null]]}'):
            plan.write_text(text)
            os.rename(plan.parent, plan.parent.with_name("000009.open"))
            self.assertIn(self.sprout("check", "--static").status, (0, 1))
            ran = self.assert_ok(self.sprout("enable", "signal_mast"))
            self.assertIn("cannot be read; it is kept in", ran.err)
            self.assert_ok(self.sprout("undo"))
            broken = Journal(self.site).state / "changes/000009.broken"
            os.rename(broken, plan.parent)


class HalfWritten(SiteCase):
    """A run that was killed: reading commands tell of it and leave it, the next that writes takes it back."""

    def half_write(self) -> dict[str, bytes]:
        before = tree_of(self.site)
        code = (
            "import os, signal\nfrom swift_sprout.disk import operations\nfrom swift_sprout.cli.main import main\n"
            "real = operations.rename\n"
            "def stop(source, target):\n    real(source, target)\n"
            f"    if target.startswith({str(self.site)!r}):\n        os.kill(os.getpid(), signal.SIGKILL)\n"
            "operations.rename = stop\n"
            f"main(['new', 'Signal mast', '--host', {str(self.site)!r}])\n"
        )
        ended = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
        self.assertEqual(ended.returncode, -signal.SIGKILL, ended.stderr)
        self.assertNotEqual(tree_of(self.site), before)
        return before

    def test_reading_tells_and_changes_nothing_then_undo_takes_it_back(self):
        before = self.half_write()
        half = tree_of(self.site)
        for words in READING:
            ran = self.sprout(*words)
            self.assertIn("An interrupted run left 'new signal_mast' half-written", ran.err, words)
            self.assertEqual(tree_of(self.site), half, words)
        ran = self.assert_ok(self.sprout("undo"))
        self.assertIn("the interrupted new signal_mast", ran.out)
        self.assertEqual(tree_of(self.site), before)
        self.assertNotIn("half-written", self.sprout("survey", "--static").err)

    def test_the_next_command_that_writes_takes_it_back(self):
        self.half_write()
        self.assert_ok(self.sprout("new", "Signal mast"))
        self.assert_ok(self.sprout("enable", "signal_mast"))

    def test_the_mark_of_another_user_is_shown_and_not_followed(self):
        mark = self.site / ".swift-sprout-unfinished.4242"
        mark.write_text("enable \x1b[31mferries\n../../etc/passwd" + "x" * 5000)
        link = self.site / ".swift-sprout-unfinished.4243"
        link.symlink_to("/etc/passwd")
        os.mkfifo(self.site / ".swift-sprout-unfinished.4244")
        if not os.geteuid():
            os.chown(mark, 4242, 4242)
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("survey", "--static"))
        if not os.geteuid():
            self.assertIn("written by user 4242", ran.err)
        self.assertNotIn("\x1b", ran.err)
        self.assertNotIn("root:", ran.err)
        self.assertLess(len(ran.err), 1000)
        self.assert_ok(self.sprout("new", "Signal mast"))
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(tree_of(self.site), before)


class ReadingWritesNothing(SiteCase):
    """Commands that read write into their cache, and nowhere else."""

    def test_no_time_of_a_file_or_folder_of_the_host_changes(self):
        def times() -> dict[str, tuple[int, int]]:
            paths = [self.site, *self.site.rglob("*")]
            return {str(path): (path.lstat().st_mtime_ns, path.lstat().st_ino) for path in paths}

        host_python("manage.py", "check", cwd=self.site)
        before = times()
        shutil.rmtree(STATE, ignore_errors=True)
        for words in (*READING, ("check", "ferries"), ("why", "ferries"), ("enable", "ferries", "--preview")):
            self.sprout(*words)
            self.assertEqual(times(), before, words)
        self.assertFalse(STATE.exists())
