"""Commands that are printed for the reader: pasted into another shell, they do what they say."""

from __future__ import annotations

import os
import subprocess
import sys

from trials.places import PROGRAM, RUNTIMES

from ..support import DJANGO, SiteCase, sprout


class Hints(SiteCase):
    def pasted(self, line: str) -> subprocess.CompletedProcess[str]:
        """Run a line in a shell that knows nothing of this one: another folder, and hardly an environment."""
        bare = {
            "PATH": "/usr/bin:/bin",
            "HOME": str(self.folder),
            "XDG_STATE_HOME": os.environ.get("XDG_STATE_HOME", ""),
        }
        words = ["/bin/sh", "-c", line.strip()]
        return subprocess.run(words, cwd="/", env=bare, capture_output=True, text=True, timeout=120, check=False)

    def test_next_steps_can_be_pasted(self) -> None:
        made = self.assert_ok(sprout("new", "Signal mast", "--host", self.site))
        steps = made.out.partition("Next:\n")[2].splitlines()
        self.assertTrue(steps[0].endswith(f"swift-sprout enable signal_mast --host {self.site}"), steps)
        ran = self.pasted(f"{steps[0]} --runtime {DJANGO}")
        self.assertEqual(ran.returncode, 0, ran.stderr)
        self.assertIn(f"swift-sprout check signal_mast --host {self.site} --runtime {DJANGO}", ran.stdout)
        ran = self.pasted(ran.stdout.partition("Next:\n")[2].splitlines()[0])
        self.assertEqual(ran.returncode, 0, ran.stdout + ran.stderr)

    def test_a_mend_and_a_remedy_hold_the_options_that_were_needed(self) -> None:
        self.assert_ok(sprout("new", "Signal mast", "--host", self.site, "-q"))
        told = self.assert_ok(self.sprout("check", "signal_mast"), 1).out
        mend = next(line for line in told.splitlines() if "enable signal_mast" in line).partition("mend")[2]
        self.assertEqual(self.pasted(mend).returncode, 0)
        refused = self.assert_ok(self.sprout("refresh", "ferries"), 4).err
        self.assertEqual(self.pasted(refused.splitlines()[-1]).returncode, 0, refused)

    def test_the_program_is_named_as_it_was_called(self) -> None:
        found = sprout("new", "Signal mast", "--host", self.site, PATH=f"{PROGRAM.parent}:{os.environ['PATH']}").out
        self.assertIn("\n  swift-sprout enable signal_mast", found)
        as_module = [sys.executable, "-m", "swift_sprout", "new", "Buoy yard", "--host", str(self.site)]
        bare = {**os.environ, "PATH": "/usr/bin:/bin"}
        ran = subprocess.run(as_module, env=bare, capture_output=True, text=True, timeout=60, check=True)
        self.assertIn(f"\n  {sys.executable} -m swift_sprout enable buoy_yard", ran.stdout)

    def test_a_quiet_command_prints_nothing_when_all_is_well_and_all_when_it_is_not(self) -> None:
        for words in (
            ["check"],
            ["survey"],
            ["new", "Signal mast"],
            ["enable", "signal_mast"],
            ["why", "ferries", "/ferries"],
        ):
            with self.subTest(words):
                ran = self.assert_ok(self.sprout(*words, "-q"))
                self.assertEqual((ran.out, ran.err), ("", ""))
        self.put("ferries/urls.py", "urlpatterns = [\n")
        ran = self.assert_ok(self.sprout("check", "-q"), 1)
        self.assertIn("✗", ran.out)
        self.assertIn("exit status 1", ran.err)

    def test_paths_that_were_relative_hold_in_any_folder_and_the_demo_adds_nothing(self) -> None:
        made = self.assert_ok(sprout("new", "Signal mast", "--host", self.site.name, cwd=self.folder))
        self.assertIn(f"enable signal_mast --host {self.site}\n", made.out)
        told = self.assert_ok(sprout("demo", "town", "--kit", "django", "--runtime", DJANGO, cwd=self.folder)).out
        shown = told.partition("The host stays for exploring:")[2]
        self.assertTrue(shown.rstrip().endswith(f"test tide_board berth_register --runtime {DJANGO}"))
        self.assertIn("swift-sprout undo --preview\n", shown)
        self.assertNotIn("--kit", shown)

    def test_the_last_lines_of_a_demo_can_be_pasted_where_the_host_does_not_carry_the_big_module(self) -> None:
        town = self.folder / "town"
        told = self.assert_ok(sprout("demo", town, "--kit", "flask", "--runtime", RUNTIMES["flask"])).out
        lines = told.partition("The host stays for exploring:")[2].splitlines()[1:]
        self.assertEqual(len(lines), 7, lines)
        for line in (one for one in lines[1:] if " serve " not in one):
            with self.subTest(line):
                bare = {**os.environ, "PATH": "/usr/bin:/bin"}
                ran = subprocess.run(
                    ["/bin/sh", "-c", line.strip()], cwd=town, env=bare, capture_output=True, text=True
                )
                self.assertEqual(ran.returncode, 0, ran.stdout + ran.stderr)

    def test_documents_and_sentences_name_the_program_plainly(self) -> None:
        made = self.assert_ok(sprout("new", "Signal mast", "--host", self.site, "--format", "json"))
        self.assertEqual(made.json["next"][0], "swift-sprout enable signal_mast")
