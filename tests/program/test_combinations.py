"""Modules with every pair of parts, and with one of a pair without the other: each is served and passes its own tests.

The modules of a kit are made together, stand in one host, and are asked in one start of it.
"""

from __future__ import annotations

import itertools
import random
import subprocess
import sys
from collections.abc import Sequence

from swift_sprout.hosts.registry import kits

from ..support import DemoCase, PlatformCase, SiteCase, WordPressCase
from .oscar.test_story import AT_ONCE

RECORD = """
[[record]]
name = "Buoy"
fields = ["name: text(20)", "light: choice(red, green), default red", "laid: date, optional"]
"""
#  what a module may have or not have, each with the kinds of parts that it is made of
PARTS = {
    "related": (
        "record",
        """
[[record]]
name = "Check"
fields = ["buoy -> Buoy (checks)", "on: date, default today", "note: long text, optional"]
""",
    ),
    "listed": ("page", '\n[[page]]\npath = "/{name}/buoys"\ntitle = "Buoys"\nshows = "Buoy"\n'),
    "form": (
        "form",
        '\n[[page]]\npath = "/{name}/buoys/new"\ntitle = "New buoy"\nshows = "Buoy"\nview = "form"\naccess = "signed in"\n',
    ),
    "plain": ("page", '\n[[page]]\npath = "/{name}/rules"\ntitle = "Rules"\n'),
    "guarded": ("guard", '\n[[page]]\npath = "/{name}/office"\ntitle = "Office"\naccess = "may change Buoy"\n'),
    "read": ("endpoint", '\n[[endpoint]]\npath = "/api/{name}/buoys"\ntitle = "Buoys"\nshows = "Buoy"\n'),
    "written": (
        "guard",
        """
[[endpoint]]
path = "/api/{name}/laid"
title = "Buoys that are laid"
shows = "Buoy"
access = "may read Buoy"
methods = ["put", "delete"]
""",
    ),
    "command": ("command", '\n[[command]]\nname = "Count buoys of {name}"\nlists = "Buoy"\n'),
    "bare command": ("command", '\n[[command]]\nname = "Ring for {name}"\n'),
    "service": ("service", '\n[[service]]\nname = "Plan rounds"\nuses = ["Buoy", "clock"]\n'),
    "listener": ("listener", '\n[[listener]]\nname = "Note a buoy"\non = "record saved"\nof = "Buoy"\n'),
    "setting": ("setting", '\n[[setting]]\nfield = "longest: integer, default 40"\n'),
    "permission": (
        "group",
        """
[[permission]]
name = "Move a buoy of {name}"
on = "Buoy"

[[group]]
name = "Crew of {name}"
may = {{ Buoy = "read change" }}
also = ["Move a buoy of {name}"]
""",
    ),
    "menu": (
        "menu",
        '\n[[page]]\npath = "/{name}/chart"\ntitle = "Chart"\n[[menu]]\ntitle = "Chart"\npage = "/{name}/chart"\n',
    ),
    "block": ("block", '\n[[block]]\nname = "Newest buoys"\nshows = "Buoy"\n'),
    "bare block": ("block", '\n[[block]]\nname = "Hours"\n'),
    "sample": ("sample", '\n[[sample]]\nrecord = "Buoy"\nrows = [{{ name = "North", light = "green" }}]\n'),
    "translation": ("translation", '\n[[translation]]\nlanguage = "de"\ntexts = {{ Buoy = "Tonne" }}\n'),
    "style": ("asset", '\n[[asset]]\nfile = "{name}.css"\n'),
}
EXPECTED = ("placed.block-nowhere", "permitted.nobody")  # nobody placed it, and no group was given it: both are told
TESTED_BY_TRYTOND = 1  # modules whose own tests are run there: each makes a database, in some twenty seconds
DRAWN = 200  # sets that are drawn at random, of which the best is taken
#  what a host must carry for a part besides the part's own kind
BESIDE = {"guard": ("permission", "page", "endpoint"), "form": ("permission", "page"), "group": ("permission", "group")}


def rows(names: Sequence[str]) -> list[set[str]]:
    """Return few sets of names in which each two meet, and each stands with, and without, each other one."""
    left = {
        (one, two, with_one, with_two)
        for one, two in itertools.combinations(names, 2)
        for with_one, with_two in itertools.product((True, False), repeat=2)
    }
    chance = random.Random(1)
    found = []
    while left:
        drawn = [{name: chance.random() < 0.5 for name in names} for _ in range(DRAWN)]
        best = max(drawn, key=lambda row: len(left & _pairs(row)))
        left -= _pairs(best)
        found.append({name for name, held in best.items() if held})
    return found


def _pairs(row: dict[str, bool]) -> set[tuple[str, str, bool, bool]]:
    return {(one, two, row[one], row[two]) for one, two in itertools.combinations(row, 2)}


def carried(kit: str) -> list[str]:
    """Return the names of the parts that a kit carries."""
    kinds = kits()[kit].data.parts
    return [name for name, (kind, _) in PARTS.items() if all(one in kinds for one in BESIDE.get(kind, (kind,)))]


def write_briefs(case: Combinations) -> list[str]:
    """Write a brief for each combination; returns the modules' names."""
    names = []
    for number, row in enumerate(rows(carried(case.kit))[: case.most], 1):
        names.append(f"fairway_{number}")
        parts = "".join(PARTS[name][1].format(name=f"fairway-{number}") for name in PARTS if name in row)
        case.write(f"{names[-1]}.toml", f'[module]\nname = "Fairway {number}"\n{RECORD}{parts}')
    return names


class Combinations(SiteCase):
    """What is asked of the modules of every kit; the classes below say how their own tests are run.

    most -- how many combinations are tried: few where the modules are those of a kit that all are tried on
    """

    most = 20

    def prove(self) -> None:
        """Make them, switch them on, and demand that all are served and that their own tests pass."""
        made = write_briefs(self)
        briefs = [word for name in made for word in ("--brief", self.folder / f"{name}.toml")]
        self.assert_ok(self.sprout("new", *briefs, "-q"))
        names = [self.spelled(name) for name in made]
        for name in names:
            self.assert_ok(self.sprout("enable", name, "-q"))
        ran = self.sprout("check", "--format", "json")
        told = {name: [code for code in self.codes(ran, name) if code not in EXPECTED] for name in names}
        self.assertEqual({name: codes for name, codes in told.items() if codes}, {}, ran.out[-8000:])
        self.assert_own_tests(names)

    def spelled(self, name: str) -> str:
        """Return a module's name as the host spells it."""
        return name

    def assert_own_tests(self, names: Sequence[str]) -> None:
        """Demand that the modules' own tests pass."""
        raise NotImplementedError


class DjangoCombinations(Combinations, DemoCase):
    """On Django and the kits that build on it."""

    settings: tuple[str, ...] = ()

    def assert_own_tests(self, names: Sequence[str]) -> None:
        tests = self.manage("test", *names, *self.settings)
        self.assertEqual(tests.returncode, 0, tests.stderr[-3000:])
        self.assertIn("No changes detected", self.manage("makemigrations", "--check", "--dry-run").stdout)
        assert_lint(self, [str(self.site / name) for name in names], "E,F,I,UP,B,SIM,DJ,C4,RET,PIE")


def assert_lint(case: SiteCase, folders: Sequence[str], rules: str) -> None:
    """Demand that the usual formatter and linter have nothing to say."""
    for words in (["check", "--ignore", "E501", "--select", rules], ["format", "--check"]):
        ruff = [sys.executable, "-m", "ruff", *words, "--isolated", *folders]
        ran = subprocess.run(ruff, capture_output=True, text=True)
        case.assertEqual(ran.returncode, 0, ran.stdout[-3000:])


class OnDjango(DjangoCombinations):
    """Django."""

    test_each_is_served_and_passes_its_own_tests = Combinations.prove


class OnWagtail(DjangoCombinations):
    """Wagtail."""

    kit = "wagtail"
    most = 2
    test_each_is_served_and_passes_its_own_tests = Combinations.prove


class OnOscar(DjangoCombinations):
    """django-oscar; its two hundred migrations take half a minute, so the tables are made at once."""

    kit = "oscar"
    most = 2
    test_each_is_served_and_passes_its_own_tests = Combinations.prove
    settings = ("--settings", "brindle_quay.at_once")

    def assert_own_tests(self, names: Sequence[str]) -> None:
        self.put("brindle_quay/at_once.py", AT_ONCE)
        super().assert_own_tests(names)


class OnFlask(Combinations, SiteCase):
    """Flask, with rows of a SQLite database."""

    kit = "flask"
    test_each_is_served_and_passes_its_own_tests = Combinations.prove

    def assert_own_tests(self, names: Sequence[str]) -> None:
        for name in names:
            words = ["-m", "unittest", "discover", "-s", f"{name}/tests", "-t", "."]
            ran = subprocess.run([self.python, *words], cwd=self.site, capture_output=True, text=True, timeout=120)
            self.assertEqual(ran.returncode, 0, ran.stderr[-3000:])
        assert_lint(self, [str(self.site / name) for name in names], "E,F,I,UP,B,SIM,C4,RET,PIE")


class OnTrytond(Combinations, PlatformCase):
    """trytond, where switching a module on takes long."""

    most = 4
    test_each_is_served_and_passes_its_own_tests = Combinations.prove

    def assert_own_tests(self, names: Sequence[str]) -> None:
        for name in names[:TESTED_BY_TRYTOND]:
            tests = self.own_tests(name)
            self.assertEqual(tests.returncode, 0, tests.stderr[-3000:])
        assert_lint(self, [str(self.site / "modules" / name) for name in names], "E,F,UP,B,SIM,C4,RET,PIE")


class OnWordPress(Combinations, WordPressCase):
    """WordPress."""

    test_each_is_served_and_passes_its_own_tests = Combinations.prove

    def spelled(self, name: str) -> str:
        return name.replace("_", "-")

    def assert_own_tests(self, names: Sequence[str]) -> None:
        for name in names:
            tests = self.php(self.site / self.modules / name / "tests/run.php")
            self.assertEqual(tests.returncode, 0, tests.stdout[-3000:] + tests.stderr)
