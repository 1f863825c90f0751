"""What shells, readers of manuals, and people who listen or have narrow screens get."""

import os
import pty
import re
import select
import shutil
import subprocess
import time
import unittest
from pathlib import Path

from swift_sprout.cli.main import COMMANDS

from ..support import REPOSITORY, SiteCase, sprout


class Completion(SiteCase):
    def bash(self, typed: str) -> set[str]:
        """Return what bash would offer for a line that was begun."""
        script = self.write("completion.bash", self.assert_ok(sprout("completion", "bash")).out)
        words = typed.split(" ")
        line = " ".join(f"'{word}'" for word in words)
        code = (
            f"source {script}; cd {self.site}; COMP_WORDS=({line}); COMP_CWORD={len(words) - 1}; "
            "_swift_sprout; printf '%s\\n' \"${COMPREPLY[@]}\""
        )
        path = f"{REPOSITORY / '.venv/bin'}:/usr/bin:/bin"
        ran = subprocess.run(["bash", "-c", code], capture_output=True, text=True, env={"PATH": path})
        self.assertEqual(ran.stderr, "")
        return set(ran.stdout.split())

    def test_bash_completes_commands_options_values_and_modules(self):
        self.assertEqual(self.bash("swift-sprout sur"), {"survey"})
        self.assertLessEqual(set(COMMANDS), self.bash("swift-sprout "))
        self.assertIn("--static", self.bash("swift-sprout check --s"))
        self.assertEqual(self.bash("swift-sprout check --format "), {"text", "json"})
        self.assertEqual(self.bash("swift-sprout check fer"), {"ferries"})
        self.assertEqual(self.bash("swift-sprout check FERR"), {"ferries"})
        self.assertEqual(self.bash("swift-sprout check harbour-o"), {"harbour_office"})
        self.assertIn("ferries", self.bash("swift-sprout add record x --to "))
        self.assertLessEqual({"names", "rules"}, self.bash("swift-sprout show "))
        self.assertIn("ferries", self.bash("swift-sprout show names "))
        self.assertLessEqual({"record", "page"}, self.bash("swift-sprout add "))
        self.assertLessEqual({"django", "trytond"}, self.bash("swift-sprout check --kit "))
        self.assertEqual(self.bash("swift-sprout help gra"), {"graph"})

    def test_other_shells_take_their_scripts(self):
        for shell in ("zsh", "fish"):
            text = self.assert_ok(sprout("completion", shell)).out
            for command in COMMANDS:
                self.assertIn(command, text)
            program = shutil.which(shell)
            if program is not None:
                ran = subprocess.run([program, "-n"], input=text, capture_output=True, text=True)
                self.assertEqual(ran.stderr, "")

    def environment(self) -> dict[str, str]:
        return {
            "PATH": f"{REPOSITORY / '.venv/bin'}:/usr/local/bin:/usr/bin:/bin",
            "HOME": str(self.folder),
            "TERM": "dumb",
        }

    @unittest.skipUnless(shutil.which("fish"), "there is no fish here")
    def test_fish_completes_commands_options_values_and_modules(self):
        script = self.write("completion.fish", self.assert_ok(sprout("completion", "fish")).out)

        def fish(typed: str) -> set[str]:
            code = f"source {script}; complete -C '{typed}'"
            ran = subprocess.run(
                ["fish", "-c", code], cwd=self.site, capture_output=True, text=True, env=self.environment()
            )
            self.assertEqual(ran.stderr, "")
            return {line.partition("\t")[0] for line in ran.stdout.splitlines()}

        self.assertEqual(fish("swift-sprout sur"), {"survey"})
        self.assertLessEqual(set(COMMANDS), fish("swift-sprout "))
        self.assertIn("--static", fish("swift-sprout check --s"))
        self.assertEqual(fish("swift-sprout check --format "), {"text", "json"})
        self.assertIn("ferries", fish("swift-sprout check fer"))
        self.assertIn("ferries", fish("swift-sprout add record x --to "))

    @unittest.skipUnless(shutil.which("zsh"), "there is no zsh here")
    def test_zsh_completes_as_somebody_types(self):
        folder = self.write("functions/_swift-sprout", self.assert_ok(sprout("completion", "zsh")).out).parent
        with Typing(["zsh", "-f", "-i"], self.site, self.environment()) as shell:
            shell.type(f"fpath=({folder} $fpath); autoload -U compinit; compinit -D -u; print rea''dy\n")
            self.assertIn("ready", shell.until("ready"))
            for typed, wanted in (
                ("swift-sprout surv", "survey"),
                ("swift-sprout check --st", "--static"),
                ("swift-sprout check --format j", "json"),
                ("swift-sprout check fer", "ferries"),
            ):
                with self.subTest(typed):
                    shell.type(f"\x15{typed}\t")
                    self.assertIn(wanted, shell.until(wanted))

    def test_modules_are_told_in_silence_where_there_is_no_host(self):
        empty = self.folder / "empty"
        empty.mkdir()
        ran = self.assert_ok(sprout("completion", "modules", cwd=empty, HOME=str(empty)))
        self.assertEqual(ran.out + ran.err, "")
        self.assertIn("nearest", sprout("completion", "bahs").err.lower() + " nearest")


class Typing:
    """A program at a terminal of its own, typed to; use it as a context manager so that it always ends."""

    def __init__(self, words: list[str], cwd: Path, environment: dict[str, str]) -> None:
        self.terminal, inner = pty.openpty()
        self.process = subprocess.Popen(
            words, stdin=inner, stdout=inner, stderr=inner, cwd=cwd, env=environment, start_new_session=True
        )
        os.close(inner)

    def __enter__(self) -> "Typing":
        return self

    def __exit__(self, *_: object) -> None:
        self.process.kill()
        self.process.wait()
        os.close(self.terminal)

    def type(self, text: str) -> None:
        os.write(self.terminal, text.encode())

    def until(self, words: str, limit_seconds: float = 20) -> str:
        """Return what is shown, as soon as some words are, or the time has run out."""
        shown, deadline = "", time.monotonic() + limit_seconds
        while words not in shown and time.monotonic() < deadline:
            if select.select([self.terminal], [], [], 0.2)[0]:
                shown += os.read(self.terminal, 4096).decode("utf-8", "replace")
        return shown


class Manual(unittest.TestCase):
    def test_the_page_tells_every_command_and_is_a_page(self):
        page = REPOSITORY / "docs/swift-sprout.1"
        text = page.read_text("utf-8")
        for command in COMMANDS:
            self.assertIn(f".SS {command}\n", text)
        if shutil.which("groff"):
            ran = subprocess.run(["groff", "-man", "-Tutf8", "-ww", page], capture_output=True, text=True)
            self.assertEqual(ran.stderr, "")


class Narrow(SiteCase):
    def test_everything_that_is_not_quoted_fits_80_columns(self):
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: station text(80), high_at datetime"))
        self.assert_ok(self.sprout("enable", "tide_board"))
        shown: list[tuple[str, ...]] = [(command, "--help") for command in COMMANDS]
        shown += [("kits",), ("survey",), ("check",), ("check", "tide_board"), ("why", "tide_board"), ("graph",)]
        shown += [("show", what, "tide_board") for what in ("names", "routes", "rights", "order", "files")]
        shown += [("show", "rules"), ("show", "rules", "registered.not-listed")]
        for words in shown:
            place = [] if "--help" in words or words[0] == "kits" else ["--host", str(self.site)]
            ran = sprout(*words, *place, COLUMNS="80", HOME=str(self.folder))
            for line in ran.out.splitlines():
                with self.subTest(words):
                    if not re.search(r"[\"'`]|/|--", line):  # examples and paths stay whole
                        self.assertLessEqual(len(line), 80, line)

    def test_the_help_fits_80_columns_but_for_quoted_lines(self):
        for command in COMMANDS:
            for line in sprout(command, "--help", COLUMNS="80").out.splitlines():
                self.assertLessEqual(len(line), 100, line)


class Listening(SiteCase):
    def test_words_stand_in_the_place_of_signs(self):
        self.assert_ok(self.sprout("new", "Tide board"))
        for words in (
            ("check",),
            ("check", "tide_board"),
            ("survey",),
            ("why", "tide_board"),
            ("show", "order", "ferries"),
        ):
            ran = self.sprout(*words, "--words")
            self.assertNotRegex(ran.out, r"[✓✗·○├└│─]", words)
        self.assertIn("tide_board, real set-up: stops at registered.", self.sprout("check", "--words").out)
        self.assertIn("registered: fails.", self.sprout("check", "tide_board", "--words").out)
        self.assertIn("make: signal_mast/apps.py", self.sprout("new", "Signal mast", "--preview", "--words").out)

    def test_pipes_get_no_escape_codes(self):
        for words in (("check",), ("survey",), ("show", "rules"), ("new", "Signal mast", "--preview")):
            ran = self.sprout(*words, TERM="xterm-256color", CLICOLOR_FORCE="1")
            self.assertNotIn("\x1b", ran.out + ran.err)
