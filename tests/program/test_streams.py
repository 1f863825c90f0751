"""Streams that are closed, full or not read, signals at any moment, and names that mean harm: never a traceback."""

import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from swift_sprout.cli.main import came_of_an_interruption

from ..support import DJANGO, SiteCase, can_be_interrupted, tree_of

STEERING = "\x1b]0;owned\x07\u202e\x9b31m"


class Streams(SiteCase):
    def shell(self, line: str) -> subprocess.CompletedProcess[str]:
        """Run a line of shell, in which ``sprout`` stands for the program on this site."""
        whole = f'sprout() {{ {sys.executable} -m swift_sprout "$@" --host {self.site}; }}\n{line}'
        return subprocess.run(["bash", "-c", whole], capture_output=True, text=True, timeout=120)

    def quiet(self, ran: subprocess.CompletedProcess[str]) -> None:
        for word in ("Traceback", "own-fault", "Exception ignored", "Fatal"):
            self.assertNotIn(word, ran.stderr)

    def test_closed_streams(self):
        for line in ("survey --static >&-", "survey --static 2>&-", "survey --static >&- 2>&- <&-", "kits >&-",
                     "check --static --format json >&-", "new 'Signal mast' >&- 2>&-", "undo >&- 2>&- <&-"):  # fmt: skip
            before = tree_of(self.site)
            ran = self.shell(f"sprout {line}; echo status $? >&2")
            self.quiet(ran)
            self.assertIn(ran.stderr.split("status ")[-1].strip(), ("0", "1"), line)
            if not line.startswith(("new", "undo")):
                self.assertEqual(tree_of(self.site), before)
        self.assertFalse((self.site / "signal_mast").exists())

    def test_what_is_printed_never_lands_in_a_file_that_is_opened_later(self):
        before = tree_of(self.site)
        self.shell("sprout new 'Signal mast' >&- 2>&- <&-")
        self.assertIn("class", (self.site / "signal_mast/apps.py").read_text())
        self.shell("sprout undo >&- 2>&- <&-")
        self.assertEqual(tree_of(self.site), before)

    def test_readers_that_go_away(self):
        for line in ("show rules | head -1", "show rules | true", "show rules --format json | true", "kits | true"):
            ran = self.shell(f"set -o pipefail; sprout {line} >/dev/null; echo status $? >&2")
            self.quiet(ran)
            self.assertIn(ran.stderr.split("status ")[-1].strip(), ("0", "141"), ran.stderr)

    def test_a_full_disk_under_the_output(self):
        for line in (
            "survey --static",
            "survey --static --format json",
            "kits --format json",
            "check nowhere --format json",
        ):
            ran = self.shell(f"sprout {line} > /dev/full; echo status $? >&2")
            self.quiet(ran)
            status = ran.stderr.split("status ")[-1].strip()
            self.assertIn(status, ("2", "3"), line + ran.stderr)
            self.assertIn("could not be written" if status == "3" else "nowhere", ran.stderr)

    def test_another_status_than_0_is_always_explained(self):
        self.put("ferries/views.py", "import nothing_here\n")
        self.put("harbour_office/__init__.py", "raise SystemExit(3)\n")
        for words, status in ((("check", "-q"), 3), (("check", "-q", "--format", "json"), 3), (("check", "--static", "-q"), 1),
                              (("check", "nowhere", "-q", "--format", "json"), 2), (("why", "ferries", "-q"), 1)):  # fmt: skip
            ran = self.sprout(*words)
            self.assertIn(ran.status, (1, status, 3), (words, ran.out, ran.err))
            self.assertGreater(len(ran.err.strip()), 15, words)
            self.assertNotIn("Traceback", ran.err)

    def test_names_that_are_no_utf8_and_names_that_steer(self):
        odd = os.fsencode(str(self.site)) + b"/ferries/tide\xff\xfe.py"
        with open(odd, "wb") as handle:
            handle.write(b"x = 1\n")
        (self.site / f"ferries/{STEERING}.py").write_text("x = (\n")
        apps = self.site / "ferries/apps.py"
        apps.write_text(apps.read_text().replace('verbose_name = "Ferries"', f"verbose_name = {STEERING!r}"))
        outputs = [self.folder / f"report{ending}" for ending in (".json", ".xml", ".sarif", ".html", ".txt")]
        for words in (("survey", "--static", "--format", "json"), ("check", "--static", "--format", "json"), ("graph", "--as", "dot"),
                      ("graph", "--as", "svg"), ("graph", "--format", "json"), ("show", "files", "ferries"),
                      ("check", "--static", *(word for one in outputs for word in ("--output", one))),
                      ("remove", "ferries", "--data", "keep", "--preview")):  # fmt: skip
            ran = self.sprout(*words)
            self.quiet(subprocess.CompletedProcess([], ran.status, ran.out, ran.err))
            self.harmless(ran.out + ran.err, words)
            if "json" in words:
                json.loads(ran.out)
        for path in outputs:
            self.harmless(path.read_text("utf-8"), path.name)

    def harmless(self, text: str, what: object) -> None:
        for letter in "\x1b\x07\u202e\x9b":
            self.assertNotIn(letter, text, what)


class Interrupting:
    """Something that is interrupted while a class is made with it."""

    def __set_name__(self, owner: type, name: str) -> None:
        raise KeyboardInterrupt


class Signals(SiteCase):
    """Told to end at any moment, by any signal, also twice: nothing is left behind, and the status says it."""

    def setUp(self) -> None:
        super().setUp()
        self.rooms = self.folder / "rooms"
        self.rooms.mkdir()

    def start(self, *words: str) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "swift_sprout", *words, "--host", str(self.site), "--runtime", str(DJANGO)]
        environment = {**os.environ, "SWIFT_SPROUT_SCRATCH": str(self.rooms), "TMPDIR": str(self.rooms)}
        return subprocess.Popen(
            command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, preexec_fn=can_be_interrupted
        )

    def rooms_in_use(self) -> set[Path]:
        #  by a walk that passes by what is taken away meanwhile
        return {
            Path(where, name) for where, folders, _ in os.walk(self.rooms) for name in folders if name[:4] == "run-"
        }

    def hang(self, first: str = "") -> Path:
        """Make the host hang while it starts; the file returned is there as soon as it does."""
        hangs = self.folder / "hangs"
        self.put("ferries/__init__.py", f"import time\n{first}\nopen({str(hangs)!r}, 'w').close()\ntime.sleep(60)\n")
        return hangs

    def wait_until(self, holds: Callable[[], bool], seconds: float = 60) -> None:
        deadline = time.monotonic() + seconds
        while not holds():
            self.assertLess(time.monotonic(), deadline, "it never came so far")
            time.sleep(0.05)

    def nothing_left(self, seconds: float = 8) -> None:
        deadline = time.monotonic() + seconds
        left: list[str] = ["?"]
        while left and time.monotonic() < deadline:
            left = []
            for name in os.listdir("/proc"):
                try:
                    if name.isdigit() and str(self.folder) in os.readlink(f"/proc/{name}/cwd"):
                        left.append(Path(f"/proc/{name}/cmdline").read_text("utf-8", "replace")[:200])
                except OSError:
                    continue
            time.sleep(0.05)
        self.assertEqual(left, [])

    def test_each_signal_while_a_host_hangs(self):
        hangs = self.hang()
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            for times in (1, 2):
                hangs.unlink(missing_ok=True)
                process = self.start("check", "ferries")
                self.wait_until(hangs.exists)
                for _ in range(times):
                    process.send_signal(number)
                    time.sleep(0.02)
                _, err = process.communicate(timeout=60)
                self.assertEqual(process.returncode, 130, (number, times, err))
                self.assertNotIn(b"Traceback", err)
                self.nothing_left()
                self.assertEqual(list(self.rooms.rglob("*.sqlite3")), [])

    def test_early_signals(self):
        for step in range(12):
            process = self.start("check", "ferries", "--static")
            time.sleep(0.01 + 0.015 * step)
            process.send_signal(signal.SIGTERM)
            _, err = process.communicate(timeout=60)
            self.assertIn(process.returncode, (130, 0, 1, -signal.SIGTERM), err)
            self.assertNotIn(b"Traceback", err)
            self.nothing_left()

    def test_a_signal_that_meets_a_finaliser_is_not_lost(self):
        code = (
            "import os, signal, time\nfrom swift_sprout.cli.ending import heed_signals\nheed_signals()\n"
            "class Buoy:\n    def __del__(self):\n        os.kill(os.getpid(), signal.SIGTERM)\n        time.sleep(0.1)\n"
            "try:\n    Buoy()\n    time.sleep(20)\nexcept KeyboardInterrupt:\n    print('interrupted')\n"
        )
        began = time.monotonic()
        ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60)
        self.assertEqual((ran.stdout, ran.stderr, ran.returncode), ("interrupted\n", "", 0))
        self.assertLess(time.monotonic() - began, 15)

    def test_an_interruption_that_the_interpreter_made_another_error_of_is_one(self):
        error: Exception | None = None
        try:
            type("Berth", (), {"depth": Interrupting()})
        except RuntimeError as caught:  # Python 3.11; later ones let it through
            error = caught
        except KeyboardInterrupt:
            return
        self.assertTrue(came_of_an_interruption(error))
        self.assertFalse(came_of_an_interruption(ValueError("x")))

    def test_a_killed_program_takes_its_hosts_with_it(self):
        hangs = self.hang("import signal\nsignal.signal(signal.SIGTERM, signal.SIG_IGN)")
        for words in (("check", "ferries"), ("serve",), ("settle", "ferries")):
            hangs.unlink(missing_ok=True)
            process = self.start(*words)
            self.wait_until(hangs.exists)
            process.kill()
            process.communicate(timeout=60)
            self.nothing_left()

    def test_the_next_command_takes_away_what_a_killed_one_left_and_nothing_else(self):
        hangs = self.hang()
        first = self.start("check", "ferries")
        self.wait_until(hangs.exists)
        first.kill()
        first.communicate(timeout=60)
        self.nothing_left()  # what it started holds its folder until then
        left = self.rooms_in_use()
        self.assertTrue(left)
        second = self.start("check", "ferries")
        self.wait_until(lambda: bool(self.rooms_in_use()) and not left & self.rooms_in_use())
        now = self.rooms_in_use()
        third = self.start("survey", "--static")
        third.communicate(timeout=60)
        self.assertTrue(all(path.exists() for path in now), "what another run uses was taken away")
        second.send_signal(signal.SIGTERM)
        second.communicate(timeout=60)
