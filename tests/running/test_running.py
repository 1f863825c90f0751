"""Processes, interpreters, ports and probes."""

import os
import resource
import subprocess
import sys
import time
import unittest
from pathlib import Path
from unittest import mock

from swift_sprout.core.errors import WrongUse
from swift_sprout.disk.copying import copy_tree
from swift_sprout.hosts.python.probing import python_probe
from swift_sprout.running import loopback, process
from swift_sprout.running.interpreter import Interpreter, find_interpreter
from swift_sprout.running.probe import Probe, ProbeFailed
from swift_sprout.running.scratch import remove_left_behind, scratch_folder

from ..support import DJANGO, Case

HERE = Interpreter(Path(sys.executable), "test", ())


class Processes(Case):
    def test_a_program_is_run_to_its_end(self):
        ended = process.run([sys.executable, "-c", "print('tide'); raise SystemExit(3)"], self.folder, 20)
        self.assertEqual((ended.status, ended.output.strip()), (3, "tide"))

    def test_a_program_that_hangs_is_ended_with_all_that_it_started(self):
        naps = f"import time; time.sleep(60)  # {self.folder}"
        code = f"import subprocess, sys, time; subprocess.Popen([sys.executable, '-c', {naps!r}]); time.sleep(60)"
        began = time.monotonic()
        ended = process.run([sys.executable, "-c", code], self.folder, 1)
        self.assertIsNone(ended.status)
        self.assertLess(time.monotonic() - began, 10)
        left = subprocess.run(["pgrep", "-f", str(self.folder)], capture_output=True, text=True).stdout.split()
        self.assertEqual(left, [])

    def test_megabytes_of_output_keep_only_their_end(self):
        ended = process.run([sys.executable, "-c", "print('tide ' * 1_000_000); print('last')"], self.folder, 30)
        self.assertLessEqual(len(ended.output), process.KEPT_BYTES)
        self.assertTrue(ended.output.endswith("last\n"))

    def test_control_characters_of_foreign_output_are_harmless(self):
        self.assertEqual(process.plain_text("a\x1b[31mb\x07\n"), "a·[31mb·\n")


class Killed(Case):
    """What a copy of a process does when the process is killed outright."""

    DIES = """
import fcntl, os, sys, time
from pathlib import Path
from swift_sprout.running import keeper

folder = Path(sys.argv[1])
lock = os.open(folder / "lock", os.O_RDWR | os.O_CREAT)
fcntl.flock(lock, fcntl.LOCK_SH)
more = [os.open(folder / "lock", os.O_RDONLY) for _ in range(int(sys.argv[2]))]

def look():
    again = os.open(folder / "lock", os.O_RDWR)
    try:
        fcntl.flock(again, fcntl.LOCK_EX | fcntl.LOCK_NB)
        word = "free"
    except BlockingIOError:
        word = "held"
    (folder / "new").write_text(word)
    (folder / "new").rename(folder / "word")

keeper.when_killed("lock", look)
print("ready", flush=True)
time.sleep(60)
"""

    def test_it_acts_after_all_that_the_process_held_was_let_go(self):
        soft, _ = resource.getrlimit(resource.RLIMIT_NOFILE)
        for count in (0, 200, min(soft - 100, 15_000)):
            for _ in range(5):
                words = [sys.executable, "-c", self.DIES, str(self.folder), str(count)]
                with subprocess.Popen(words, stdout=subprocess.PIPE) as dies:
                    assert dies.stdout is not None
                    self.assertEqual(dies.stdout.readline(), b"ready\n")
                    dies.kill()
                word = self.folder / "word"
                deadline = time.monotonic() + 30
                while not word.exists() and time.monotonic() < deadline:
                    time.sleep(0.01)
                self.assertEqual(word.read_text(), "free", count)
                word.unlink()


class Interpreters(Case):
    def environment(self, name: str, *packages: str) -> Path:
        prefix = self.folder / name
        (prefix / "bin").mkdir(parents=True)
        (prefix / "bin/python").symlink_to(sys.executable)
        for package in packages:
            (prefix / "lib/python3.11/site-packages" / package).mkdir(parents=True)
        return prefix

    def find(self, given: str | None = None):
        from unittest import mock

        with mock.patch.dict(os.environ), mock.patch.object(sys, "prefix", sys.base_prefix):
            os.environ.pop("VIRTUAL_ENV", None)
            return find_interpreter(given, self.folder, "django", (".venv", "venv"))

    def test_the_first_environment_that_has_the_package(self):
        self.environment(".venv", "flask")
        self.environment("venv", "django", "Django-5.2.1.dist-info")
        search = self.find()
        assert search.found is not None
        self.assertEqual(search.found.path, self.folder / "venv/bin/python")
        self.assertEqual(search.found.distribution_version("django"), "5.2.1")
        self.assertTrue(search.found.has("django"))
        self.assertEqual(search.found.top_level_names(), {"django"})
        self.assertIn("django is not installed in", search.tried[0])

    def test_one_that_is_given_is_taken_as_it_is(self):
        prefix = self.environment("mine")
        self.assertEqual(self.find(str(prefix)).found.path, prefix / "bin/python")
        self.assertEqual(self.find(str(prefix / "bin/python")).found.path, prefix / "bin/python")
        for given in ("/nowhere", "no-such-python", str(self.folder / "mine/lib")):
            with self.subTest(given), self.assertRaises(WrongUse):
                self.find(given)

    def test_none(self):
        self.assertIsNone(self.find().found)


class Loopback(unittest.TestCase):
    def test_ports(self):
        port = loopback.free_port()
        self.assertTrue(loopback.port_is_free(port))
        self.assertFalse(loopback.wait_until_answering(port, 0.1))

    def test_no_answer_is_an_answer_of_its_own(self):
        answer = loopback.get(loopback.free_port(), "/", {}, 1)
        self.assertEqual(answer.status, 0)
        self.assertIn("refused", answer.failure.lower())


class Probes(Case):
    def probe(self, code: str, limit: float = 10) -> Probe:
        script = self.write("asks.py", code)
        return python_probe(HERE, script, self.folder, {"a": 1}, limit)

    def test_steps_answers_and_log(self):
        code = (
            "import json, sys\n\ndef main():\n    first = json.loads(input())\n    print(json.dumps({'step': 'x'}))\n"
            "    print('noise')\n    print(json.dumps({'answers': first}), flush=True)\n"
            "    for line in sys.stdin:\n        print(json.dumps({json.loads(line)['ask']: {'more': 2}}), flush=True)\n"
            "    print(json.dumps({'log': {'3': 4}}), flush=True)\n"
        )
        with self.probe(code) as probe:
            self.assertEqual(probe.answers(), {"a": 1})
            self.assertEqual(probe.step, "x")
            self.assertEqual(probe.ask("people"), {"more": 2})
            self.assertEqual(probe.finish(), {"3": 4})

    def test_a_probe_that_ends_hangs_or_is_killed_says_in_which_step(self):
        head = "import json, os, sys, time\n\ndef main():\n    print(json.dumps({'step': 'setup'}), flush=True)\n"
        for ending, reason in {
            "    os._exit(0)\n": "ended by itself with status 0",
            "    os.kill(os.getpid(), 9)\n": "ended by signal 9",
            "    time.sleep(30)\n": "did not answer within",
        }.items():
            with self.subTest(ending), self.probe(head + ending, 4) as probe:
                with self.assertRaises(ProbeFailed) as caught:
                    probe.answers()
                self.assertEqual(caught.exception.step, "setup")
                self.assertIn(reason, caught.exception.reason)

    def test_the_probe_of_the_django_kit_is_a_whole_program_for_the_hosts_interpreter(self):
        from swift_sprout.hosts.kits.django.asking import PROBE

        ended = process.run(
            [str(DJANGO), "-m", "py_compile", str(PROBE)], self.folder, 20, {"PYTHONPYCACHEPREFIX": "/tmp/x"}
        )
        self.assertEqual(ended.status, 0, ended.output)


class Folders(Case):
    def test_scratch_is_private_and_gone(self):
        with scratch_folder() as folder:
            self.assertEqual(folder.stat().st_mode & 0o777, 0o700)
            (folder / "x").mkdir()
        self.assertFalse(folder.exists())

    def test_a_program_starts_while_another_thread_gives_up_what_it_held(self):
        import threading

        real, about_to_start, given_up = subprocess.Popen, threading.Event(), threading.Event()
        ended: list[object] = []

        def late(*words, **more):
            about_to_start.set()
            given_up.wait(10)
            ended.extend(os.fstat(one).st_ino for one in more["pass_fds"])
            return real(*words, **more)

        def start() -> None:
            try:
                ended.append(process.run(["true"], self.folder, 20).status)
            except OSError as error:
                ended.append(error)

        thread = threading.Thread(target=start)
        with mock.patch.object(subprocess, "Popen", late):
            with scratch_folder() as folder:
                held = folder.parent.stat().st_ino
                thread.start()
                about_to_start.wait(10)
            given_up.set()
            thread.join()
        self.assertEqual(ended, [held, 0])

    def test_scratch_is_on_disk_where_memory_has_little_room(self):
        little = os.statvfs_result((4096, 4096, 16384, 16000, 16000, 0, 0, 0, 0, 255))  # 64 MB, as in containers
        with (
            mock.patch.dict(os.environ, {"TMPDIR": str(self.folder), "SWIFT_SPROUT_SCRATCH": ""}),
            mock.patch.object(os, "statvfs", return_value=little),
            scratch_folder() as folder,
        ):
            self.assertTrue(folder.is_relative_to(self.folder))

    def test_a_scratch_place_that_is_somebody_elses_is_not_used(self):
        aim = self.folder / "aim"
        aim.mkdir()
        (self.folder / f"swift-sprout-{os.geteuid()}").symlink_to(aim)
        with (
            mock.patch.dict(os.environ, {"TMPDIR": str(self.folder), "SWIFT_SPROUT_SCRATCH": ""}),
            scratch_folder(on_disk=True) as folder,
        ):
            self.assertEqual(folder.parent.stat().st_mode & 0o777, 0o700)
            self.assertEqual(list(aim.iterdir()), [])

    def test_what_nobody_holds_is_taken_away_and_what_is_held_or_kept_stays(self):
        with mock.patch.dict(os.environ, {"SWIFT_SPROUT_SCRATCH": str(self.folder)}):
            code = (
                "import os\nfrom swift_sprout.running.scratch import scratch_folder\n"
                "with scratch_folder() as folder:\n    print(folder, flush=True)\n    os.kill(os.getpid(), 9)\n"
            )
            left = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True).stdout.strip()
            self.assertTrue(Path(left).is_dir())
            with scratch_folder() as held, scratch_folder(keep=True) as kept:
                remove_left_behind()
                self.assertFalse(Path(left).exists())
                self.assertTrue(held.is_dir())
            remove_left_behind()
            self.assertTrue(kept.is_dir())

    def test_a_run_in_a_process_namespace_of_its_own_holds_its_folder_all_the_same(self):
        unshare = ["unshare", "--user", "--map-root-user", "--pid", "--fork", "--kill-child"]
        if subprocess.run([*unshare, "true"], capture_output=True).returncode:
            self.skipTest("this system allows no namespaces")
        code = (
            "import os, sys, time\nfrom swift_sprout.running.scratch import remove_left_behind, scratch_folder\n"
            "with scratch_folder() as folder:\n"
            "    print(os.getpid(), folder, flush=True)\n    sys.stdin.readline()\n"
            "    remove_left_behind()\n    print('ended', flush=True)\n    time.sleep(60)\n"
        )
        with mock.patch.dict(os.environ, {"SWIFT_SPROUT_SCRATCH": str(self.folder)}), scratch_folder() as outside:
            words = [*unshare, sys.executable, "-c", code]
            with subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as other:
                assert other.stdin is not None and other.stdout is not None
                number, inside = other.stdout.readline().split()
                self.assertLess(int(number), 10)  # a number that means another process out here
                remove_left_behind()
                self.assertTrue(Path(inside).is_dir())
                print(file=other.stdin, flush=True)
                self.assertEqual(other.stdout.readline(), "ended\n")
                self.assertTrue(outside.is_dir())
                other.kill()
            deadline = time.monotonic() + 20
            while Path(inside).exists() and time.monotonic() < deadline:
                remove_left_behind()
                time.sleep(0.05)
            self.assertFalse(Path(inside).exists())

    def test_copies_leave_out_what_is_not_the_hosts_and_share_nothing_that_can_be_written(self):
        self.write("host/manage.py", "x")
        self.write("host/.git/config", "x")
        self.write("host/env/pyvenv.cfg", "x")
        self.write("host/a/__pycache__/x.pyc", "x")
        self.write("host/media/film.bin", "f" * 1_100_000)
        (self.folder / "host/quay.db").write_bytes(b"SQLite format 3\0" + b"0" * 100)
        (self.folder / "host/link.py").symlink_to("manage.py")
        (self.folder / "host/whole.py").symlink_to(self.folder / "host/manage.py")
        (self.folder / "host/a/up.py").symlink_to("../manage.py")
        (self.folder / "host/out").symlink_to("../elsewhere")
        (self.folder / "elsewhere").mkdir()
        target = self.folder / "copy"
        target.mkdir()
        outward = copy_tree(self.folder / "host", target)
        self.assertEqual(outward, ["out"])
        found = {path.relative_to(target).as_posix() for path in target.rglob("*") if not path.is_dir()}
        self.assertEqual(found, {"manage.py", "media/film.bin", "link.py", "whole.py", "a/up.py"})
        self.assertFalse(os.path.samefile(target / "media/film.bin", self.folder / "host/media/film.bin"))
        for name in ("link.py", "whole.py", "a/up.py"):
            self.assertTrue(os.path.samefile(target / name, target / "manage.py"), name)
        with (target / "media/film.bin").open("r+b") as handle:
            handle.write(b"changed")
        self.assertEqual((self.folder / "host/media/film.bin").read_bytes()[:3], b"fff")
        self.assertFalse(os.path.samefile(target / "manage.py", self.folder / "host/manage.py"))
        self.assertEqual((target / "link.py").read_text(), "x")


class Tails(unittest.TestCase):
    def test_a_stream_that_its_owner_closes_ends_the_reading_in_silence(self):
        import contextlib
        import io
        import threading

        failed: list[object] = []
        before, threading.excepthook = threading.excepthook, failed.append
        self.addCleanup(setattr, threading, "excepthook", before)
        with contextlib.redirect_stderr(io.StringIO()):
            for _ in range(20):
                started = process.start(["sh", "-c", "echo here; sleep 30"], Path("/"))
                assert started.stdout is not None
                reader = process.TailReader(started.stdout)
                process.end(started)
                started.stdout.close()
                reader.text()
        self.assertEqual(failed, [])
