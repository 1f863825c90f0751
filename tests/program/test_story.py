"""The whole story on a real Django site: made, not served, enabled, served, switched off, undone."""

import os
import signal
import subprocess
import sys
import urllib.request

from ..support import BRIEFS, DJANGO, SiteCase, can_be_interrupted, host_python, sprout, tree_of

TIDE_BOARD = BRIEFS / "tide_board.toml"


class Story(SiteCase):
    def test_from_brief_to_served_page_and_back(self):
        before = tree_of(self.site)
        self.assert_ok(self.sprout("new", "--brief", TIDE_BOARD))
        failing = self.assert_ok(self.sprout("check", "tide_board", "--format", "json"), 1)
        self.assertEqual(self.codes(failing, "tide_board")[0], "registered.not-listed")
        self.assertEqual(self.ladder(failing, "tide_board")["registered"], "fail")
        enabled = self.assert_ok(self.sprout("enable", "tide_board"))
        self.assertIn("migrate tide_board: tide_board.0001_initial", enabled.out)
        passing = self.assert_ok(self.sprout("check", "--format", "json"))
        states = self.ladder(passing, "tide_board")
        self.assertEqual(states.pop("placed"), "not-applicable")
        self.assertEqual(set(states.values()), {"pass"}, states)
        self.assertEqual(passing.json["summary"]["served"], 3)
        self.assertEqual(passing.json["summary"]["findings"], 0)
        tests = host_python("manage.py", "test", "tide_board", cwd=self.site)
        self.assertIn("Ran 4 tests", tests.stderr)
        self.assertEqual(tests.returncode, 0, tests.stderr)
        self.assert_ok(self.sprout("undo"))
        self.assert_ok(self.sprout("undo"))
        after = tree_of(self.site)
        before.pop("brindle_quay.sqlite3")
        after.pop("brindle_quay.sqlite3")
        self.assertEqual(after, before)
        self.assertFalse((self.site / "tide_board").exists())

    def test_disable_takes_the_entries_out_and_names_the_data_that_stays(self):
        self.assert_ok(self.sprout("new", "--brief", TIDE_BOARD))
        before = tree_of(self.site)
        self.assert_ok(self.sprout("enable", "tide_board"))
        done = self.assert_ok(self.sprout("disable", "tide_board"))
        self.assertIn("table tide_board_tide stays, with 0 rows", done.out)
        after = tree_of(self.site)
        self.assertEqual(after["brindle_quay/settings.py"], before["brindle_quay/settings.py"])
        self.assertEqual(after["brindle_quay/urls.py"], before["brindle_quay/urls.py"])

    def test_check_never_writes_to_the_users_database(self):
        self.assert_ok(self.sprout("new", "--brief", TIDE_BOARD))
        self.assert_ok(self.sprout("enable", "tide_board"))
        database = self.site / "brindle_quay.sqlite3"
        os.utime(database, (1, 1))
        before = (database.read_bytes(), database.stat().st_mtime_ns)
        self.assert_ok(self.sprout("check"))
        self.assert_ok(self.sprout("survey"))
        self.assertEqual((database.read_bytes(), database.stat().st_mtime_ns), before)

    def test_static_check_runs_nothing_of_the_host(self):
        self.put("ferries/__init__.py", "open('ran.txt', 'w').close()\n")
        ran = self.assert_ok(self.sprout("check", "--static", "--format", "json"))
        self.assertEqual(self.ladder(ran, "ferries")["served"], "not-asked")
        self.assertEqual(self.ladder(ran, "ferries")["routed"], "pass")
        self.assert_ok(self.sprout("survey", "--static"))
        self.assertFalse((self.site / "ran.txt").exists())

    def test_serve_prints_addresses_that_answer_and_leaves_nothing_behind(self):
        process = subprocess.Popen(
            [sys.executable, "-m", "swift_sprout", "serve", "ferries", "--host", self.site, "--runtime", DJANGO],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            preexec_fn=can_be_interrupted,
        )
        assert process.stdout is not None and process.stderr is not None
        base = process.stdout.readline().split()[2]
        address = process.stdout.readline().split()[1]
        self.assertTrue(address.startswith(base), address)
        with urllib.request.urlopen(address) as answer:
            self.assertIn("Ferry timetable", answer.read().decode())
        process.send_signal(signal.SIGINT)
        self.assertEqual(process.wait(20), 130)
        self.assertEqual(process.stderr.read(), "Stopped.\n")
        process.stdout.close()
        process.stderr.close()
        with self.assertRaises(OSError):
            urllib.request.urlopen(address, timeout=2)

    def test_every_change_says_which_refresh_it_needs(self):
        made = self.assert_ok(self.sprout("new", "--brief", TIDE_BOARD, "--format", "json"))
        self.assertEqual([one["kind"] for one in made.json["refresh"]], ["nothing"])
        enabled = self.assert_ok(self.sprout("enable", "tide_board", "--format", "json"))
        self.assertEqual([one["kind"] for one in enabled.json["refresh"]], ["restart"])
        self.assertEqual(enabled.json["steps"][0]["step"], "migrate tide_board: tide_board.0001_initial")
        self.assertIn("Refresh:   restart", self.assert_ok(self.sprout("disable", "tide_board")).out)

    def test_five_hundred_modules_at_once(self):
        import shutil

        self.assert_ok(self.sprout("new", "Beacon 0", "--internal", "beacon_0"))
        for number in range(1, 500):
            shutil.copytree(self.site / "beacon_0", self.site / f"beacon_{number}")
        ran = self.assert_ok(self.sprout("check", "--static", "--format", "json"), 1)
        self.assertEqual(ran.json["summary"]["modules"], 502)
        self.assertEqual(self.codes(ran, "beacon_7")[0], "described.name-disagrees")

    def test_questions_on_a_terminal_have_defaults(self):
        import pty

        child, terminal = pty.fork()
        if child == 0:
            os.execv(sys.executable, [sys.executable, "-m", "swift_sprout", "new", "--host", str(self.site)])
        shown = b""
        for line in (b"9 lives\n", b"Signal mast\n", b"\n", b"Flag: colour txt\n", b"\n", b"\n"):
            while not shown.rstrip().endswith((b":", b"]:")):
                shown += os.read(terminal, 4096)
            os.write(terminal, line)
            shown += os.read(terminal, 4096)
        try:
            while more := os.read(terminal, 4096):
                shown += more
        except OSError:
            pass
        self.assertEqual(os.waitpid(child, 0)[1], 0, shown.decode())
        self.assertIn("begins with a digit", shown.decode())
        self.assertIn("unknown type 'txt'", shown.decode())
        self.assertIn("[/signal-mast: Signal mast]", shown.decode())
        self.assertTrue((self.site / "signal_mast/templates/signal_mast/signal_mast.html").exists())

    def test_survey_tells_found_registered_enabled(self):
        self.assert_ok(self.sprout("new", "Tide board"))
        ran = self.assert_ok(self.sprout("survey", "--format", "json"))
        modules = {one["name"]: one for one in ran.json["setups"][0]["modules"]}
        self.assertEqual((modules["ferries"]["registered"], modules["ferries"]["enabled"]), (True, True))
        self.assertEqual((modules["tide_board"]["registered"], modules["tide_board"]["enabled"]), (False, False))
        self.assertEqual(modules["tide_board"]["version"], "0.1.0")
        self.assertTrue(ran.json["host"]["version"].startswith("5.2"))

    def test_demo_tells_the_story_and_leaves_the_site(self):
        ran = self.assert_ok(sprout("demo", self.folder / "harbour", "--runtime", DJANGO))
        self.assertIn("stops at" if "stops at" in ran.out else "not in INSTALLED_APPS", ran.out)
        self.assertIn("4 modules, 4 served, no findings", ran.out)
        self.assertIn(str(self.folder / "harbour"), "\n".join(ran.out.splitlines()[-8:]))
        refused = self.assert_ok(sprout("demo", self.folder / "harbour", "--runtime", DJANGO), 4)
        self.assertIn("folder-taken", refused.err)


class Preview(SiteCase):
    def test_preview_shows_tree_and_diff_and_writes_nothing(self):
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("new", "--brief", TIDE_BOARD, "--preview"))
        self.assertIn("+class TidesList(ListView):", ran.out)
        self.assertIn("tideBoard", ran.out)
        self.assert_ok(self.sprout("enable", "ferries", "--preview"))
        self.assert_ok(self.sprout("disable", "ferries", "--preview"))
        self.assertEqual(tree_of(self.site), before)
        self.assertFalse(list(self.site.glob(".swift-sprout*")))
