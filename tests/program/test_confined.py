"""``check --confined``: what a misbehaving host gets through without it is stopped, and a good one is served as ever."""

import os
import re
import shutil
import socket
import subprocess
import time
import unittest
from pathlib import Path

from trials.crash.cases import tree_of
from trials.hosts import built_demo, copy_host, runtime_options, trial
from trials.places import RUNTIMES

from ..support import Case, SiteCase, need_wordpress, sprout

ATTEMPTS = """
import ctypes, os, socket, subprocess, sys
from pathlib import Path

def tried(name, act):
    try:
        return f"{{name}}={{act()}}"
    except BaseException:
        return f"{{name}}=stopped"

def write(path):
    Path(path).write_text("owned")
    return "done"

def daemon():
    if os.fork() == 0:
        os.setsid()
        if os.fork() == 0:
            os.execv("/bin/sleep", ["sleep", "{seconds}"])
        os._exit(0)
    return "done"

def connect(port):
    with socket.create_connection(("127.0.0.1", port), 2) as line:
        line.sendall(b"MAIL FROM:<harbour@quay.example>")
    return "done"

def bomb():
    children = []
    try:
        for number in range(1200):
            child = os.fork()
            if child == 0:
                import signal; signal.pause()
            children.append(child)
        return "done"
    finally:
        for child in children:
            os.kill(child, 9)
            os.waitpid(child, 0)

def remount():
    libc = ctypes.CDLL(None, use_errno=True)
    if libc.mount(None, b"/", None, ctypes.c_ulong(32 | 4096), None):
        raise OSError(ctypes.get_errno(), "mount")
    return "done"

raise RuntimeError(" ".join([
    tried("home", lambda: write({home!r})),
    tried("outside", lambda: write({outside!r})),
    tried("own", lambda: write("left-by-the-host.txt")),
    tried("daemon", daemon),
    tried("network", lambda: connect({port})),
    tried("names", lambda: ",".join(name for _, name in socket.if_nameindex() if name != "lo") or "none"),
    tried("memory", lambda: len(bytearray(8 << 30)) and "done"),
    tried("remount", remount),
    tried("system", lambda: ",".join(os.listdir("/run")) or "empty"),
    tried("processes", bomb),
]))
"""


#  by which the daemons of this run are told from all others
SECONDS = f"41.{os.getpid()}"


@unittest.skipUnless(shutil.which("unshare") or shutil.which("bwrap"), "nothing here makes namespaces")
class Confined(SiteCase):
    def attempts(self, *words: str, **environment: str) -> dict[str, str]:
        """Let the host try what it should not, and return what came of it."""
        with socket.socket() as listening:
            listening.bind(("127.0.0.1", 0))
            listening.listen()
            listening.settimeout(0.2)
            text = ATTEMPTS.format(
                home=str(Path.home() / "left-by-a-host"),
                outside=str(self.folder / "left-by-a-host"),
                port=listening.getsockname()[1],
                seconds=SECONDS,
            )
            self.put("ferries/__init__.py", text)
            ran = self.sprout("check", "ferries", "--format", "json", "--time-limit", "110", *words, **environment)
            self.assertIn(ran.status, (1, 3), ran.err)
            try:
                listening.accept()[0].close()
                reached = True
            except TimeoutError:
                reached = False
        found = dict(re.findall(r"(\w+)=(stopped|done|none|empty)", ran.out))
        self.assertGreater(len(found), 8, ran.out + ran.err)
        self.assertEqual(reached, found["network"] == "done")
        return found

    def daemons(self) -> str:
        return subprocess.run(["pgrep", "-f", f"sleep {SECONDS}"], capture_output=True, text=True).stdout

    def test_what_gets_through_without_it_is_stopped(self):
        self.addCleanup(subprocess.run, ["pkill", "-f", f"sleep {SECONDS}"])
        before = tree_of("django", self.site)
        found = self.attempts("--confined")
        for name in ("home", "outside", "network", "memory", "remount", "processes"):
            self.assertTrue(found[name] == "stopped", (name, found))
        self.assertEqual((found["own"], found["names"], found["daemon"]), ("done", "none", "done"))
        time.sleep(0.2)
        self.assertEqual(self.daemons(), "", "a daemon outlives the check")
        self.assertFalse((self.folder / "left-by-a-host").exists())
        self.assertFalse((Path.home() / "left-by-a-host").exists())
        self.assertFalse((self.site / "left-by-the-host.txt").exists())
        now = tree_of("django", self.site)
        now["ferries/__init__.py"] = before["ferries/__init__.py"]
        self.assertEqual(now, before)

    def test_the_same_host_without_it_shows_what_is_stopped(self):
        self.addCleanup(subprocess.run, ["pkill", "-f", f"sleep {SECONDS}"])
        self.addCleanup(lambda: (Path.home() / "left-by-a-host").unlink(missing_ok=True))
        home = self.folder / "home"
        home.mkdir()
        self.put("ferries/__init__.py", "")
        text = ATTEMPTS.split('tried("memory"')[0] + "]))\n"
        self.put(
            "ferries/__init__.py",
            text.format(home=str(home / "x"), outside=str(self.folder / "left-by-a-host"), port=9, seconds=SECONDS),
        )
        ran = self.sprout("check", "ferries", "--format", "json")
        self.assertIn("outside=done", ran.out)
        self.assertTrue((self.folder / "left-by-a-host").exists())

    def test_a_good_host_is_served_and_said_to_be_confined(self):
        ran = self.assert_ok(self.sprout("check", "--confined"))
        self.assertIn("confined", ran.out)
        self.assertIn("2 served", ran.out)
        self.assertEqual(ran.err, "")

    @unittest.skipUnless(shutil.which("bwrap"), "bwrap is not here")
    def test_by_bwrap_alone(self):
        self.addCleanup(subprocess.run, ["pkill", "-f", f"sleep {SECONDS}"])
        programs = self.folder / "programs"
        programs.mkdir()
        (programs / "bwrap").symlink_to(shutil.which("bwrap") or "")
        found = self.attempts("--confined", PATH=str(programs))
        self.assertTrue(found["outside"] == "stopped")
        self.assertEqual(self.daemons(), "")

    def test_without_any_it_says_so_and_runs_nothing(self):
        empty = self.folder / "programs"
        empty.mkdir()
        self.put("ferries/__init__.py", f"open({str(self.folder / 'ran')!r}, 'w')\n")
        ran = self.assert_ok(self.sprout("check", "--confined", PATH=str(empty)), 3)
        self.assertIn("unshare is not here", ran.err)
        self.assertFalse((self.folder / "ran").exists())

    def test_what_it_does_not_go_with(self):
        for other in ("--static", "--sandbox", "--mend", "--watch"):
            self.assert_ok(self.sprout("check", "--confined", other), 2)
        self.assert_ok(self.sprout("check", "--confined", "--output", str(self.folder / "x.json")), 2)


@unittest.skipUnless(shutil.which("unshare") or shutil.which("bwrap"), "nothing here makes namespaces")
class OnEachHost(Case):
    def test_it_is_served_as_ever_and_left_as_it_was(self):
        for kit in RUNTIMES:
            with self.subTest(kit):
                if kit == "wordpress":
                    need_wordpress()
                site = self.folder / kit
                copy_host(kit, built_demo(kit), site)
                before = tree_of(kit, site)
                results = []
                for words in ((), ("--confined",)):
                    ran = sprout("check", "--host", site, *runtime_options(kit), *words, "--format", "json")
                    self.assertIn(ran.status, (0, 1), ran.err)
                    results.append([(one["module"], one["ladder"]) for one in ran.json["setups"][0]["modules"]])
                    trial(kit).stop(site)
                self.assertEqual([self.passed(one) for one in results[1]], [self.passed(one) for one in results[0]])
                self.assertIn("served", [rung for one in results[1] for rung in self.passed(one)])
                self.assertEqual(tree_of(kit, site), before)

    def passed(self, module: tuple[str, list[dict[str, str]]]) -> list[str]:
        return [module[0], *(step["rung"] for step in module[1] if step["state"] == "pass")]
