"""What people see and answer on a terminal: prompts, tables that fit, and many modules from many briefs."""

from __future__ import annotations

import os
import pty
import select
import subprocess
import sys
import time
from collections import Counter

from swift_sprout.reports.widths import width

from ..support import BRIEFS, DJANGO, REPOSITORY, SiteCase, sprout, tree_of

REGISTER = str(BRIEFS / "berth_register.toml")


class Asked(SiteCase):
    def talk(self, words: list[str], answers: list[tuple[str, str]], term: str = "dumb") -> tuple[int, str]:
        """Run the program on a terminal and answer when a text appears; returns the exit status and all it wrote."""
        child, terminal = pty.fork()
        if child == 0:
            os.environ.update(COLUMNS="100", TERM=term)
            command = [sys.executable, "-m", "swift_sprout", *words, "--host", str(self.site)]
            os.execv(sys.executable, command)
        seen, waiting, ends = "", list(answers), time.monotonic() + 60
        while time.monotonic() < ends:
            if select.select([terminal], [], [], 0.2)[0]:
                try:
                    part = os.read(terminal, 65536)
                except OSError:
                    break
                if not part:
                    break
                seen += part.decode("utf-8", "replace")
            if waiting and waiting[0][0] in seen.rpartition("\n")[2]:
                os.write(terminal, waiting.pop(0)[1].encode() + b"\n")
                seen += "\n"
        _, status = os.waitpid(child, 0)
        os.close(terminal)
        self.assertEqual(waiting, [], seen)
        return os.waitstatus_to_exitcode(status), seen

    def test_a_person_who_waits_sees_what_is_done(self):
        status, seen = self.talk(["check", "ferries", "--sandbox", "--runtime", str(DJANGO)], [], "xterm")
        self.assertEqual(status, 0, seen)
        signs, written, rest = seen.partition("Django 5.")
        self.assertIn("in the copy, module 1 of 1: migrate ferries", signs)
        self.assertTrue(written and "in the copy, module" not in rest)
        status, seen = self.talk(["settle", "ferries", "--runtime", str(DJANGO), "--words"], [])
        self.assertIn("migrate ferries.\r\n", seen)
        for words in (["check", "ferries", "-q"], ["check", "ferries", "--format", "json"]):
            self.assertNotIn("asking", self.talk([*words, "--runtime", str(DJANGO)], [], "xterm")[1])
        self.assertEqual(self.sprout("check", "ferries").err, "")

    def test_the_sign_ends_though_a_copy_of_the_program_holds_its_input_open(self):
        ticking = REPOSITORY / "src/swift_sprout/cli/ticking.py"
        for seconds in (0.0, 1.5):  # before anything is drawn, and while it is
            reading, writing = os.pipe()
            drawing = subprocess.Popen([sys.executable, "-P", ticking], stdin=reading, stderr=subprocess.PIPE)
            os.close(reading)
            time.sleep(seconds)
            os.write(writing, b"migrate ferries\n\0")
            self.assertEqual(drawing.wait(20), 0)
            drawing.communicate()
            os.close(writing)

    def test_add_asks_for_what_is_missing_and_again_where_it_does_not_fit(self):
        status, seen = self.talk(
            ["add"],
            [
                ("Part", "block"),
                ("To which module", "feries"),
                ("To which module", "ferries"),
                ("as one line", "Boats, shows Sailing"),
            ],
        )
        self.assertEqual(status, 0, seen)
        self.assertIn("ferries", seen)
        self.assertTrue((self.site / "ferries/templatetags/ferries_blocks.py").exists())

    def test_remove_asks_what_becomes_of_the_data(self):
        words = ["remove", "ferries", "--runtime", str(DJANGO)]
        before = tree_of(self.site)
        status, seen = self.talk(words, [("keep the tables", "perhaps")])
        self.assertEqual((status, tree_of(self.site)), (4, before), seen)
        self.assertIn("ferries_sailing: 3 rows", seen)
        status, seen = self.talk(words, [("keep the tables", "keep")])
        self.assertEqual(status, 0, seen)
        self.assertFalse((self.site / "ferries").exists())


class Tables(SiteCase):
    def test_every_table_fits_80_columns_and_loses_nothing(self):
        self.assert_ok(self.sprout("new", "--brief", REGISTER))
        self.assert_ok(self.sprout("enable", "berth_register"))
        for what in ("names", "routes", "rights", "order", "placements", "files"):
            with self.subTest(what):
                narrow = self.assert_ok(self.sprout("show", what, "berth_register", COLUMNS="80")).out
                self.assertLessEqual(max(width(line) for line in narrow.splitlines()), 80)
                wide = self.assert_ok(self.sprout("show", what, "berth_register", COLUMNS="120")).out
                lost = Counter("".join(wide.split())) - Counter("".join(narrow.split()))
                self.assertEqual(lost, Counter())  # blocks name their columns again and again


class Many(SiteCase):
    def test_several_briefs_are_one_change_set(self):
        before = tree_of(self.site)
        briefs = []
        for number in range(24):
            text = f'[module]\nname = "Buoys {number}"\n[[record]]\nname = "Buoy"\nfields = ["name: text(9)"]\n[[page]]\npath = "/buoys-{number}"\nshows = "Buoy"\n'
            briefs += ["--brief", str(self.write(f"b{number}.toml", text))]
        preview = self.assert_ok(self.sprout("new", *briefs, "--preview"))
        self.assertEqual(preview.out.count("Would make"), 24)
        self.assertEqual(tree_of(self.site), before)
        ran = self.assert_ok(self.sprout("new", *briefs, "--format", "json"))
        self.assertEqual([one["module"] for one in ran.json["modules"]], [f"buoys_{number}" for number in range(24)])
        alone = tree_of(self.site / "buoys_7")
        self.assert_ok(sprout("undo", "--host", self.site))
        self.assertEqual(tree_of(self.site), before)
        self.assert_ok(self.sprout("new", "--brief", briefs[15]))
        self.assertEqual(tree_of(self.site / "buoys_7"), alone)

    def test_two_briefs_of_one_name_or_one_page_are_refused(self):
        before = tree_of(self.site)
        first = self.write("a.toml", '[module]\nname = "Buoys"\n[[page]]\npath = "/buoys"\n')
        same_name = self.write("b.toml", '[module]\nname = "buoys"\n')
        same_page = self.write("c.toml", '[module]\nname = "Floats"\n[[page]]\npath = "/buoys"\n')
        wrong = self.write("d.toml", '[module]\nname = "Rafts"\nnmae = 3\n')
        for other, wanted in ((same_name, "are both buoys"), (same_page, "both have /buoys"), (wrong, "d.toml:3")):
            ran = self.assert_ok(self.sprout("new", "--brief", str(first), "--brief", str(other)), 2)
            self.assertIn(wanted, " ".join(ran.err.split()))
            self.assertEqual(tree_of(self.site), before)
