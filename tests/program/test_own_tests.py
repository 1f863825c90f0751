"""``test``: modules' own tests by the host's own runner; what it never finds, what fails, and in which set-up."""

from __future__ import annotations

import json
import os
import time
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import jsonschema

from trials.hosts import trial
from trials.recipes import HOSTS

from ..support import REPOSITORY, Case, Ran, SiteCase, WordPressCase, sprout, tree_of

SCHEMA = REPOSITORY / "src/swift_sprout/reports/schemas/test.json"
CASE = """import unittest

from django.test import TestCase


class Ferries(TestCase):
    def test_passes(self):
        self.assertEqual(1, 1)

    @unittest.skip("only at low water")
    def test_is_skipped(self):
        pass

    def test_parts(self):
        for number in range(3):
            with self.subTest(number=number):
                self.assertLess(number, 2)

    def test_fails(self):
        self.assertEqual(self.client.get("/nowhere/").status_code, 200)


class Sunk(TestCase):
    @classmethod
    def setUpTestData(cls):
        raise RuntimeError("no berth is free")

    def test_is_never_reached(self):
        pass
"""
PASSING = CASE.partition("    @unittest")[0].replace("import unittest\n\n", "")


class OnDjango(SiteCase):
    def setUp(self) -> None:
        super().setUp()
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: station text(80)", "-q"))
        self.assert_ok(self.sprout("enable", "tide_board", "-q"))

    def told(self, *words: str, status: int = 0) -> Any:
        ran = self.assert_ok(self.sprout("test", *words, "--format", "json"), status)
        document = json.loads(ran.out)
        jsonschema.validate(document, json.loads(SCHEMA.read_text("utf-8")))
        return document

    def test_each_test_is_told_with_its_end_and_its_place(self) -> None:
        self.put("ferries/tests/__init__.py", "")
        self.put("ferries/tests/test_ferries.py", CASE)
        self.put("ferries/tests/test_gone.py", "from ferries import nothing_there\n\n\ndef test_it():\n    pass\n")
        report = self.folder / "tests.xml"
        ran = self.assert_ok(self.sprout("test", "--output", str(report)), 1)
        (setup,) = self.told("ferries", "tide_board", status=1)["setups"]
        ferries, tides = setup["modules"]
        ends = {one["name"]: (one["outcome"], one["failed_at"], one["says"]) for one in ferries["tests"]}
        self.assertEqual(ends["Ferries.test_passes"][0], "passed")
        self.assertEqual(ends["Ferries.test_is_skipped"], ("skipped", "", "only at low water"))
        self.assertEqual(
            ends["Ferries.test_parts (number=2)"],
            ("failed", "ferries/tests/test_ferries.py:17", "AssertionError: 2 not less than 2"),
        )
        self.assertEqual(
            ends["Ferries.test_fails"][1:], ("ferries/tests/test_ferries.py:20", "AssertionError: 404 != 200")
        )
        self.assertEqual(
            ends["setUpClass (ferries.tests.test_ferries.Sunk)"][1:],
            ("ferries/tests/test_ferries.py:26", "RuntimeError: no berth is free"),
        )
        self.assertEqual(ends["import of ferries.tests.test_gone"][1], "ferries/tests/test_gone.py:1")
        self.assertEqual([ferries[key] for key in ("run", "passed", "failed", "skipped")], [6, 1, 4, 1])
        self.assertEqual((tides["failed"], tides["never_found"]), (0, []))
        self.assertGreater(tides["passed"], 1)
        for words in ("failed: ferries: Ferries.test_fails", "where ferries/tests/test_ferries.py:20", "4 failed"):
            self.assertIn(words, " ".join(ran.out.split()))
        suites = {one.get("name"): one for one in ElementTree.parse(report).getroot()}
        self.assertEqual(suites["real/ferries"].get("failures"), "4")
        self.assertEqual(suites["real/tide_board"].get("tests"), str(tides["run"]))

    def test_files_that_the_runner_never_finds_are_named_with_the_reason(self) -> None:
        self.put("ferries/tests/__init__.py", "")
        for path in ("test_found.py", "ferry_checks.py", "api/test_api.py"):
            self.put(f"ferries/tests/{path}", PASSING)
        self.put("ferries/tests/test_plain.py", "def test_it():\n    assert True\n")
        (setup,) = self.told("ferries", status=1)["setups"]
        (ferries,) = setup["modules"]
        told = {one["file"].removeprefix("ferries/tests/"): one["cause"] for one in ferries["never_found"]}
        self.assertEqual(sorted(told), ["api/test_api.py", "ferry_checks.py", "test_plain.py"])
        self.assertIn("is no package", told["api/test_api.py"])
        self.assertIn("named test*.py", told["ferry_checks.py"])
        self.assertIn("plain functions", told["test_plain.py"])
        self.put("ferries/tests/api/__init__.py", "")
        os.rename(self.site / "ferries/tests/ferry_checks.py", self.site / "ferries/tests/test_ferry_checks.py")
        (self.site / "ferries/tests/test_plain.py").unlink()
        (setup,) = self.told("ferries")["setups"]
        self.assertEqual(setup["modules"][0]["passed"], 3)

    def test_a_module_that_the_runner_cannot_look_into_leaves_the_others(self) -> None:
        self.put("ferries/tests/__init__.py", "")
        self.put("ferries/tests/test_ferries.py", PASSING)
        self.put("ferries/tests.py", PASSING)
        (setup,) = self.told(status=1)["setups"]
        modules = {one["module"]: one for one in setup["modules"]}
        self.assertIn("cannot look into it: ImportError", modules["ferries"]["problem"])
        self.assertEqual([one["file"] for one in modules["ferries"]["never_found"]], ["ferries/tests.py"])
        self.assertGreater(modules["tide_board"]["passed"], 1)

    def test_a_test_that_must_fail_is_seen_to_and_nothing_is_left_of_it(self) -> None:
        before = tree_of(self.site)
        ran = self.assert_ok(self.sprout("test", "tide_board", "--failing-first"))
        self.assertIn("a test that must fail was put in, and seen to fail", " ".join(ran.out.split()))
        self.assertIn("none failed", ran.out)
        self.assertEqual(tree_of(self.site), before)
        outside = self.folder / "tests"
        os.rename(self.site / "tide_board/tests", outside)
        (self.site / "tide_board/tests").symlink_to(outside)
        ran = self.assert_ok(self.sprout("test", "tide_board", "--failing-first"), 3)
        self.assertIn("No test can be put in", " ".join(ran.out.split()))
        self.assertNotIn("must_fail", " ".join(map(str, outside.rglob("*"))))
        (self.site / "tide_board/tests").unlink()
        os.rename(outside, self.site / "tide_board/tests")
        runner = (
            "from django.test.runner import DiscoverRunner\n\n\nclass Quiet(DiscoverRunner):\n"
            "    def build_suite(self, *args, **kwargs):\n        return type(super().build_suite(*args, **kwargs))()\n"
        )
        self.put("quiet.py", runner)
        self.change("brindle_quay/settings.py", "INSTALLED_APPS", "TEST_RUNNER = 'quiet.Quiet'\nINSTALLED_APPS")
        ran = self.assert_ok(self.sprout("test", "tide_board", "--failing-first"), 1)
        self.assertIn("a test that must fail was put in as", " ".join(ran.out.split()))
        self.assertIn("was never found", " ".join(ran.out.split()))

    def test_set_ups_stand_side_by_side(self) -> None:
        self.put("swift-sprout.toml", '[setups.ci]\nsettings = "brindle_quay.ci"\nenvironment = { QUAY = "ci" }\n')
        self.put(
            "brindle_quay/ci.py",
            "import os\n\nfrom .settings import *\n\nassert os.environ['QUAY'] == 'ci'\n"
            "INSTALLED_APPS = [one for one in INSTALLED_APPS if one != 'tide_board']\nROOT_URLCONF = 'brindle_quay.bare'\n",
        )
        self.put("brindle_quay/bare.py", "urlpatterns = []\n")
        document = self.told("tide_board", "--setup", "real", "--setup", "ci", status=1)
        real, ci = (one["modules"][0] for one in document["setups"])
        self.assertEqual([real[key] for key in ("registered", "described", "enabled")], [True, True, True])
        self.assertEqual([ci[key] for key in ("registered", "enabled")], [False, False])
        self.assertEqual((real["failed"], real["problem"]), (0, ""))
        self.assertIn("registered in the real set-up", ci["problem"])
        ran = self.sprout("test", "--setup", "cl")
        self.assertIn("setup-unknown", ran.err)
        self.assertIn("Known: ci, real, sandbox", ran.err)

    def test_a_test_that_never_ends_is_ended_with_what_it_started(self) -> None:
        mark = self.folder / "still-there"
        self.put("ferries/tests/__init__.py", "")
        self.put(
            "ferries/tests/test_slow.py",
            "import subprocess\nimport sys\nimport unittest\n\n\nclass Slow(unittest.TestCase):\n    def test_it(self):\n"
            f'        code = \'import time; time.sleep(4); open("{mark}", "w")\'\n'
            "        subprocess.run([sys.executable, '-c', code])\n",
        )
        began = time.monotonic()
        ran = self.assert_ok(self.sprout("test", "ferries", "--time-limit", "2"), 3)
        self.assertIn("did not end in time", " ".join(ran.out.split()))
        time.sleep(max(0.0, began + 6 - time.monotonic()))
        self.assertFalse(mark.exists())

    def test_what_cannot_be_run_says_why(self) -> None:
        self.change("brindle_quay/settings.py", "INSTALLED_APPS", "TEST_RUNNER = 'absent.Runner'\nINSTALLED_APPS")
        ran = self.assert_ok(self.sprout("test", "tide_board"), 3)
        self.assertIn("No module named 'absent'", " ".join(ran.out.split()))
        self.assertNotIn("never found", ran.out)
        ran = self.sprout("test", "tide_bord")
        self.assertIn("Nearest known: tide_board", ran.err)
        self.assertIn("output-ending", self.sprout("test", "--output", "tests.pdf").err)


FLASK = HOSTS / "flask-3.1-extensions/bin/python"
APPLICATION = {
    "wsgi.py": (
        "import sqlite3\nfrom pathlib import Path\n\nfrom flask import Flask\n\nfrom tides import bp\n\n"
        "app = Flask(__name__)\napp.config['DATABASE'] = str(Path(__file__).parent / 'quay.sqlite3')\n"
        "app.register_blueprint(bp)\n"
    ),
    "tides/__init__.py": (
        "import sqlite3\n\nfrom flask import Blueprint, current_app\n\nbp = Blueprint('tides', __name__)\n\n\n"
        "@bp.get('/tides')\ndef tides():\n    with sqlite3.connect(current_app.config['DATABASE']) as held:\n"
        "        held.execute('create table if not exists seen (at text)')\n        held.execute('insert into seen values (1)')\n"
        "    return 'Tides'\n"
    ),
}


class OnFlask(Case):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.folder / "site"
        for path, text in APPLICATION.items():
            self.write(f"site/{path}", text)

    def run_tests(self, *words: str) -> Ran:
        return sprout("test", *words, "--runtime", FLASK, cwd=self.site)

    def test_they_run_in_a_copy_so_that_the_database_stays(self) -> None:
        self.write(
            "site/tides/tests.py",
            "import unittest\n\nfrom wsgi import app\n\n\nclass Tides(unittest.TestCase):\n    def test_it(self):\n"
            "        self.assertEqual(app.test_client().get('/tides').data, b'Tides')\n",
        )
        (self.site / "quay.sqlite3").write_bytes(b"")
        before = tree_of(self.site)
        ran = self.assert_ok(self.run_tests())
        self.assertIn("Own tests, sandbox set-up  run by unittest", ran.out)
        self.assertIn("1 test, none failed", ran.out)
        self.assertEqual(tree_of(self.site), before)
        absent = self.write(
            "site/tides/test_more.py", "import unittest\n\n\nclass More(unittest.TestCase):\n    pass\n"
        )
        self.assert_ok(self.run_tests())
        absent.unlink()

    def test_a_module_of_one_file_and_a_folder_that_is_no_package_bring_none(self) -> None:
        (self.site / "tides/__init__.py").rename(self.site / "water.py")
        self.write("site/gauges/views.py", "from flask import Blueprint\n\nbp = Blueprint('gauges', __name__)\n")
        wsgi = (
            (self.site / "wsgi.py")
            .read_text()
            .replace("from tides import bp", "from water import bp\nfrom gauges.views import bp as gauges")
        )
        (self.site / "wsgi.py").write_text(f"{wsgi}app.register_blueprint(gauges)\n")
        self.assertIn("No module brings tests", self.assert_ok(self.run_tests()).out)

    def test_a_database_that_tests_write_to_elsewhere_is_named(self) -> None:
        (self.site / "quay.sqlite3").write_bytes(b"")
        self.write(
            "site/tides/test_tides.py",
            "import unittest\n\n\nclass Tides(unittest.TestCase):\n    def test_it(self):\n"
            f"        open({str(self.site / 'quay.sqlite3')!r}, 'ab').write(b'tide')\n",
        )
        ran = self.assert_ok(self.run_tests())
        self.assertIn("quay.sqlite3 of the host itself changed while the tests ran", " ".join(ran.out.split()))

    def test_pytest_runs_them_where_the_project_uses_it(self) -> None:
        self.write(
            "site/tides/test_tides.py",
            "import pytest\nfrom wsgi import app\n\n\n@pytest.fixture\ndef client():\n    return app.test_client()\n\n\n"
            "def test_page(client):\n    assert client.get('/tides').data == b'Tides'\n\n\n"
            "@pytest.mark.parametrize('depth', [1, 2])\ndef test_depth(depth):\n    assert depth < 2\n",
        )
        self.write("site/tides/checks.py", "def test_it():\n    assert True\n")
        ran = self.assert_ok(self.run_tests(), 1)
        self.assertIn("plain functions", " ".join(ran.out.split()))
        self.write("site/pytest.ini", "[pytest]\npython_files = test_*.py checks.py\n")
        ran = self.assert_ok(self.run_tests(), 1)
        self.assertIn("run by pytest", ran.out)
        self.assertIn("failed: tides: test_tides.test_depth[2]", ran.out)
        self.assertIn("where   tides/test_tides.py:16", ran.out)
        self.assertIn("4 tests, 1 failed", ran.out)


class OnOthers(Case):
    def test_a_host_that_no_kit_knows_is_refused(self) -> None:
        self.write("town/plugins/tides/index.mjs", "export const name = 'tides';\n")
        ran = self.assert_ok(sprout("test", "--host", self.folder / "town", "--modules", "plugins", cwd=self.folder), 3)
        self.assertIn("It is not known how", ran.out)


class OnTrytond(SiteCase):
    kit = "trytond"

    def test_several_modules_run_in_one_start(self) -> None:
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: station text(80)", "-q"))
        self.assert_ok(self.sprout("enable", "tide_board", "-q"))
        test = self.site / "modules/ferries/test_ferries.py"
        test.write_text(
            "import unittest\n\n\nclass F(unittest.TestCase):\n    def test_it(self):\n        self.fail('sunk')\n"
        )
        ran = self.assert_ok(self.sprout("test", "tide_board", "ferries"), 1)
        self.assertIn("AssertionError: sunk", ran.out)
        self.assertIn("1 failed", ran.out)
        self.assertRegex(ran.out, r"tide_board +1 +1 +\d\d ")


class OnWordPress(WordPressCase):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(trial(self.kit).stop, self.site)

    def test_each_modules_own_program_runs_in_a_copy(self) -> None:
        self.assert_ok(self.sprout("new", "Tide board", "--record", "Tide: station text(80)", "-q"))
        self.assert_ok(self.sprout("enable", "tide-board", "-q"))
        self.assertIn("none failed", self.assert_ok(self.sprout("test", "tide-board")).out)
        tests = Path(self.site, "wp-content/plugins/tide-board/tests/TestModule.php")
        text = tests.read_text("utf-8")
        at = text.rindex("}")
        tests.write_text(
            f"{text[:at]}\tpublic function test_that_is_wrong(): void {{\n\t\tthrow new \\RuntimeException( 'sunk' );\n\t}}\n}}\n"
        )
        line = tests.read_text("utf-8")[:at].count("\n") + 2
        ran = self.assert_ok(self.sprout("test", "tide-board"), 1)
        self.assertIn("failed: tide-board: test_that_is_wrong", ran.out)
        self.assertIn(f"tests/TestModule.php:{line}", ran.out)
        ran = self.sprout("test", "tide-board", "--setup", "real")
        self.assertEqual(ran.status, 3)
        self.assertIn("--setup sandbox", ran.out)
