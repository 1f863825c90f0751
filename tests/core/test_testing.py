"""Own tests shared out among modules, reports of runners read, and why a runner does not find a file."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from swift_sprout.core.testing import (
    ModuleTests,
    NeverFound,
    Outcome,
    OwnTest,
    Recorded,
    RunnerTold,
    TestForm,
    share_out,
)
from swift_sprout.hosts.python.testfiles import UNITTEST, never_found, test_files
from swift_sprout.hosts.python.testing import pytest_settings, read_records
from swift_sprout.hosts.shared.junitfile import read_junit

CASE = "from unittest import TestCase\n\n\nclass Tides(TestCase):\n    def test_it(self):\n        pass\n"


def ended(file: str, outcome: Outcome = Outcome.PASSED) -> OwnTest:
    return OwnTest("Tides.test_it", file, 5, outcome, 0.5)


class SharingOut(unittest.TestCase):
    def test_a_test_belongs_to_the_innermost_module_that_holds_its_file(self) -> None:
        outer, inner = ModuleTests("quay", "quay"), ModuleTests("quay.tides", "quay/tides")
        tests = (
            ended("quay/tests.py"),
            ended("quay/tides/tests.py", Outcome.FAILED),
            ended("quayside/tests.py"),
            ended("conftest.py", Outcome.FAILED),
        )
        files = frozenset(one.file for one in tests)
        others = share_out([outer, inner], [RunnerTold("unittest", UNITTEST, Recorded(files, tests), 1, "")])
        self.assertEqual([one.file for one in outer.tests], ["quay/tests.py"])
        self.assertEqual(inner.found, ["quay/tides/tests.py"])
        self.assertEqual([one.file for one in others], ["conftest.py"])
        self.assertEqual((outer.well, inner.well, inner.count(Outcome.FAILED)), (True, False, 1))


class ReadingReports(unittest.TestCase):
    def test_records_are_read_up_to_where_a_run_was_ended(self) -> None:
        record = '{"test": "A.test_a", "file": "a.py", "line": 3, "outcome": "failed", "seconds": 0.2, "says": "no", "failed_at": "b.py:4"}'
        read = read_records(f'{{"found": "a.py"}}\n{{"installed": ["a"]}}\n{record}\n{{"test": "A.te', "")
        self.assertEqual(read.found, {"a.py"})
        self.assertEqual(read.installed, {"a"})
        self.assertEqual([(one.place, one.outcome) for one in read.tests], [("b.py:4", Outcome.FAILED)])
        self.assertFalse(read_records("", "usage: …").each)

    def test_junit_tells_places_of_tests_and_of_failures(self) -> None:
        tests = read_junit(
            '<testsuites><testsuite><testcase classname="quay.tests.Tides" name="test_a" file="quay/tests.py" line="4" '
            'time="0.1"><failure message="assert 1 == 2">quay/views.py:7: in shown\nquay/model.py:9: AssertionError'
            '</failure></testcase><testcase classname="quay.tests" name="test_b" file="quay/tests.py" line="9">'
            '<skipped message="low water"/></testcase></testsuite></testsuites>'
        )
        assert tests is not None
        self.assertEqual([one.name for one in tests], ["Tides.test_a", "tests.test_b"])
        self.assertEqual([one.place for one in tests], ["quay/model.py:9", "quay/tests.py:10"])
        self.assertEqual([one.outcome for one in tests], [Outcome.FAILED, Outcome.SKIPPED])
        self.assertIsNone(read_junit("Internal error"))


class Files(unittest.TestCase):
    def setUp(self) -> None:
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.root = Path(held.name)

    def write(self, path: str, text: str = CASE) -> None:
        target = self.root / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text)

    def test_files_hold_tests_by_what_stands_in_them(self) -> None:
        for path in ("quay/tests/test_a.py", "quay/tests/checks.py", "quay/spec.py"):
            self.write(path)
        self.write("quay/tests/alone.py", "def test_it():\n    pass\n")
        self.write("quay/harbour.py", "def test_the_water(depth):\n    return depth > 2\n")
        self.write("quay/tests/samples.py", "def tide():\n    return 1\n")
        self.write("quay/tests/broken.py", "def test_(:\n")
        found = test_files(self.root / "quay")
        self.assertEqual(found, ["spec.py", "tests/alone.py", "tests/checks.py", "tests/test_a.py"])
        self.assertEqual(test_files(self.root / "absent"), [])

    def test_each_reason_is_told_with_what_to_do(self) -> None:
        for path in ("quay/__init__.py", "quay/tests/__init__.py", "quay/tests/a-b/__init__.py"):
            self.write(path, "")
        for path, form, cause, remedy in (
            ("quay/tests/tide_tests.py", UNITTEST, "files named test*.py", "test_tide.py"),
            ("quay/tests/api/test_a.py", UNITTEST, "quay/tests/api is no package", "__init__.py"),
            ("quay/tests/a-b/test_a.py", UNITTEST, "no name that can be imported", "letters"),
            ("quay/tests.py", TestForm(("t*.py",), packages=True), "quay/tests beside it", "quay/tests/"),
            ("quay/tests/test_a.py", UNITTEST, "took no test", "load_tests"),
            ("quay/tests/test_a.py", TestForm(("test_*.py",), functions=True), "took no test", "mark"),
        ):
            with self.subTest(path, form=form):
                self.write(path)
                told = never_found(self.root, "quay", path, form)
                self.assertIn(cause, told.cause)
                self.assertIn(remedy, told.remedy)
                self.assertEqual(told.sure, "took no test" not in cause)
        self.write("quay/tests/test_plain.py", "def test_it():\n    pass\n")
        told = never_found(self.root, "quay", "quay/tests/test_plain.py", UNITTEST)
        self.assertEqual(told, NeverFound(told.file, told.cause, told.remedy))
        self.assertIn("plain functions", told.cause)

    def test_settings_of_pytest_are_found_wherever_they_may_stand(self) -> None:
        self.assertIsNone(pytest_settings([self.root]))
        for name, text in (
            ("setup.cfg", "[metadata]\nname = quay\n"),
            ("tox.ini", "[tox]\n"),
            ("pyproject.toml", "[tool.ruff]\nline-length = 100\n"),
        ):
            self.write(name, text)
        self.assertIsNone(pytest_settings([self.root]))
        for name, text in (
            ("pyproject.toml", "[tool.pytest.ini_options]\npython_files = ['check_*.py']\n"),
            ("setup.cfg", "[tool:pytest]\n"),
            ("tox.ini", "[pytest]\n"),
            ("pytest.ini", "[pytest]\naddopts = %q\n"),
        ):
            self.write(name, text)
            self.assertEqual(pytest_settings([self.root / "below", self.root]), self.root / name)
