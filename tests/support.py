"""What the tests share: the built program run as a program, and real hosts to run it on."""

from __future__ import annotations

import atexit
import importlib
import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from swift_sprout.hosts.shared.demo import BRIEFS
from trials.field import prepared, styles
from trials.hosts import built, built_demo, copy_host, runtime_options
from trials.places import PROGRAM, REPOSITORY, RUNTIMES, brief_of
from trials.recipes import HOSTS, KIT_FOLDERS

__all__ = ["BRIEFS", "REPOSITORY", "brief_of", "built_demo"]  # which tests take from here as well

#  nothing of a test reaches the state and the cache of whoever runs it
MEMORY = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
OWN_PLACES = Path(tempfile.mkdtemp(prefix="sprout-own-", dir=MEMORY)).resolve()
STATE = OWN_PLACES / "state"
os.environ["SWIFT_SPROUT_STATE"] = str(STATE)
os.environ["XDG_CACHE_HOME"] = str(OWN_PLACES / "cache")
os.environ["SWIFT_SPROUT_SCRATCH"] = str(OWN_PLACES)
atexit.register(shutil.rmtree, OWN_PLACES, True)
DJANGO = RUNTIMES["django"]
TRYTOND = RUNTIMES["trytond"]
WORDPRESS = RUNTIMES["wordpress"]
TRYTOND_MODULES = HOSTS / "trytond-8.2-modules/bin/python"


def world_of(kit: str) -> Path:
    """Return a kit's part of the made-up world."""
    return KIT_FOLDERS / kit / "world"


@dataclass(frozen=True)
class Ran:
    """How the program ended and what it wrote."""

    status: int
    out: str
    err: str

    @property
    def json(self) -> dict[str, Any]:
        document: dict[str, Any] = json.loads(self.out)
        return document


def sprout(*words: str | Path, cwd: Path | None = None, stdin: str | None = None, **environment: str) -> Ran:
    """Run the program as its users do."""
    kept = {key: value for key, value in os.environ.items() if key not in ("VIRTUAL_ENV", "DJANGO_SETTINGS_MODULE")}
    ended = subprocess.run(
        [PROGRAM, *map(str, words)],
        cwd=cwd,
        env={**kept, "COLUMNS": "100", **environment},
        input=stdin,
        stdin=subprocess.DEVNULL if stdin is None else None,
        capture_output=True,
        text=True,
        timeout=120,
    )
    return Ran(ended.returncode, ended.stdout, ended.stderr)


def in_host_module(name: str) -> Any:
    """Import what runs inside of Django hosts, as their own interpreters would find it; it has no types."""
    for place in (KIT_FOLDERS / "django/probe", KIT_FOLDERS.parent / "python/inside"):
        if str(place) not in sys.path:
            sys.path.append(str(place))
    return importlib.import_module(name)


def can_be_interrupted() -> None:
    """Let a child process be told to end even where the tests run in the background, which shells keep from it."""
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, signal.SIG_DFL)


def host_python(*words: str | Path, cwd: Path) -> subprocess.CompletedProcess[str]:
    """Run the host's interpreter."""
    return subprocess.run([str(DJANGO), *map(str, words)], cwd=cwd, capture_output=True, text=True, timeout=120)


def scratch_folders() -> set[Path]:
    """Return the scratch folders of the program that are there now, of these tests alone."""
    return set((OWN_PLACES / "scratch").glob("run-*"))


class Case(unittest.TestCase):
    """A test with a folder of its own."""

    maxDiff = None
    in_memory = False  # for tests that write very many small files

    def setUp(self) -> None:
        room = MEMORY if self.in_memory else None
        self.folder = Path(tempfile.mkdtemp(prefix="sprout-test-", dir=room)).resolve()
        self.addCleanup(shutil.rmtree, self.folder, True)

    def write(self, path: str, text: str) -> Path:
        """Write a file below the test's folder."""
        target = self.folder / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text, "utf-8")
        return target

    def assert_ok(self, ran: Ran, status: int = 0) -> Ran:
        """Demand an exit status, and never a traceback."""
        self.assertNotIn("Traceback", ran.err)
        self.assertEqual(ran.status, status, ran.out + ran.err)
        return ran


class SiteCase(Case):
    """A test on a copy of the Brindle Quay host of a kit.

    kit             -- the kit
    place           -- the name of the host's folder
    without_runtime -- the commands that are run without what runs the host
    """

    kit = "django"
    place = "site"
    without_runtime: tuple[str, ...] = ("undo", "graph")

    def setUp(self) -> None:
        super().setUp()
        self.python = RUNTIMES[self.kit]
        self.site = self.folder / self.place
        copy_host(self.kit, self.built(), self.site)

    def built(self) -> Path:
        """Return the host that is copied."""
        return built_demo(self.kit)

    def sprout(self, *words: str | Path, **environment: str) -> Ran:
        """Run the program on the host, with its interpreter where the command takes one."""
        options = [] if words[0] in self.without_runtime else runtime_options(self.kit)
        return sprout(*words, "--host", self.site, *options, cwd=None, stdin=None, **environment)

    def change(self, path: str, old: str, new: str) -> None:
        """Change a file of the site."""
        target = self.site / path
        text = target.read_text("utf-8")
        self.assertIn(old, text)
        target.write_text(text.replace(old, new), "utf-8")

    def put(self, path: str, text: str) -> Path:
        """Write a file of the site."""
        return self.write(f"{self.site.name}/{path}", text)

    def kept_rows(self) -> list[Path]:
        """Return the files in which the rows of dropped tables are kept."""
        from swift_sprout.disk.journal import Journal

        return sorted((Journal(self.site).state / "rows").glob("*.json"))

    def ladder(self, ran: Ran, module: str) -> dict[str, str]:
        """Return rung to state of one module from a JSON check."""
        found = next(one for one in ran.json["setups"][0]["modules"] if one["module"] == module)
        return {step["rung"]: step["state"] for step in found["ladder"]}

    def evidence(self, ran: Ran, module: str, rung: str) -> str:
        """Return what a JSON check saw of one rung of a module."""
        found = next(one for one in ran.json["setups"][0]["modules"] if one["module"] == module)
        return str(next(step["evidence"] for step in found["ladder"] if step["rung"] == rung))

    def codes(self, ran: Ran, module: str) -> list[str]:
        """Return the codes of a module's findings from a JSON check, first cause first."""
        found = next(one for one in ran.json["setups"][0]["modules"] if one["module"] == module)
        return [finding["code"] for finding in found["findings"]]


def tree_of(folder: Path) -> dict[str, bytes]:
    """Return every file below a folder with its bytes; byte code left out."""
    return {
        path.relative_to(folder).as_posix(): path.read_bytes()
        for path in sorted(folder.rglob("*"))
        if path.is_file() and "__pycache__" not in path.relative_to(folder).parts
    }


class PlatformCase(SiteCase):
    """A test on a copy of the Brindle Quay platform on trytond."""

    kit = "trytond"
    place = "platform"
    without_runtime = ("new", "add", "refresh", "adopt")

    def own_tests(self, module: str) -> subprocess.CompletedProcess[str]:
        """Run the tests that a module brings, on a database of their own."""
        words = ["-m", "unittest", "discover", "-s", f"modules/{module}/tests", "-t", "modules"]
        kept = {"DB_CACHE": str(self.folder), "PYTHONPATH": "modules"}
        return subprocess.run(
            [TRYTOND, *words], cwd=self.site, env={**os.environ, **kept}, capture_output=True, text=True, timeout=300
        )


def _make_and_enable(kit: str, brief: str, site: Path) -> None:
    copy_host(kit, built_demo(kit), site)
    options = ("--host", site, *runtime_options(kit), "-q")
    for words in (("new", "--brief", brief_of(kit, brief)), ("enable", brief), ("settle", brief, "--samples")):
        ran = sprout(*words, *options)
        if ran.status:
            raise RuntimeError(ran.out + ran.err)


class StyleCase(SiteCase):
    """A test on a copy of a host in a style that our generator does not write, with its database.

    style -- its name below ``trials/field``
    """

    style: str
    prepared: Path

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.prepared = prepared(next(one for one in styles() if one.name == cls.style), Path(folder.name).resolve())

    def built(self) -> Path:
        """Return the host, which is prepared once for all tests of a class."""
        return self.prepared

    def files(self) -> set[str]:
        """Return the paths of the host's files; what an interpreter compiles is left out."""
        return {path for path in tree_of(self.site) if "__pycache__" not in path}

    def findings(self, *words: str) -> list[tuple[str, str, int]]:
        """Return code, file and line of what a check says first hand: errors and warnings, those of the host first."""
        setup = self.sprout("check", "--format", "json", *words).json["setups"][0]
        told = [*setup["findings"], *(one for module in setup["modules"] for one in module["findings"])]
        told = [one for one in told if not one.get("follows_from") and one["severity"] != "note"]
        return [(one["code"], one["file"], one["line"]) for one in told]


class DemoCase(SiteCase):
    """A test on a copy of the Brindle Quay host of a kit that builds on Django.

    brief -- the module that is made and enabled there already; empty for none
    """

    brief = ""

    def built(self) -> Path:
        """Return the host with its module, which is made for all tests together."""
        if not self.brief:
            return built_demo(self.kit)
        return built(f"{self.kit}-{self.brief}", lambda site: _make_and_enable(self.kit, self.brief, site))

    def rows(self, statement: str) -> list[tuple[object, ...]]:
        """Ask the site's database."""
        import sqlite3

        connection = sqlite3.connect(self.site / "brindle_quay.sqlite3")
        with connection:
            found = connection.execute(statement).fetchall()
        connection.close()
        return found

    def manage(self, *words: str) -> subprocess.CompletedProcess[str]:
        """Run the site's own entry script."""
        return subprocess.run(
            [self.python, "manage.py", *words], cwd=self.site, capture_output=True, text=True, timeout=300
        )


def need_wordpress() -> None:
    """Skip where the host's Debian packages cannot be had; in CI that fails."""
    if (WORDPRESS / "ready").exists():
        return
    if os.environ.get("CI"):
        raise RuntimeError(f"the WordPress host is missing ({WORDPRESS}): run `make test`, which makes it")
    raise unittest.SkipTest("WordPress is not here: `make test` unpacks it where Debian packages can be installed")


class WordPressCase(SiteCase):
    """A test on a copy of the Brindle Quay site on WordPress."""

    kit = "wordpress"
    place = "quay"
    modules = "wp-content/plugins"

    @classmethod
    def setUpClass(cls) -> None:
        need_wordpress()

    @contextmanager
    def served_database(self) -> Iterator[None]:
        """Run the site's own database server while the block runs."""
        from swift_sprout.hosts.kits.wordpress.database import own_server

        server = own_server(self.site)
        assert server is not None
        server.start(30)
        try:
            yield
        finally:
            server.stop()

    def php(self, *words: str | Path) -> subprocess.CompletedProcess[str]:
        """Run PHP in the site, with its database."""
        with self.served_database():
            return subprocess.run(["php", *words], cwd=self.site, capture_output=True, text=True, timeout=120)

    def in_host(self, code: str) -> str:
        """Run code in the loaded host and return what it prints."""
        loaded = "$_SERVER['HTTP_HOST'] = '127.0.0.1'; require 'wp-load.php'; "
        ran = self.php("-r", loaded + code)
        self.assertEqual(ran.returncode, 0, ran.stdout + ran.stderr)
        return ran.stdout

    def files(self) -> dict[str, bytes]:
        """Return what people write: everything but the host's own files, its database and its log."""
        return {
            path: content
            for path, content in tree_of(self.site / "wp-content").items()
            if not path.endswith("debug.log")
        }
