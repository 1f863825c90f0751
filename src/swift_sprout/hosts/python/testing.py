"""Programs that run modules' own tests where Python runs the host: its own runner, or pytest where that is used."""

from __future__ import annotations

import json
import os
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from configparser import ConfigParser, Error
from pathlib import Path
from typing import TYPE_CHECKING, Any

import tomli

from ...core.testing import Outcome, OwnTest, Recorded, TestForm
from ..contract.testing import TestProgram
from ..shared.junitfile import read_junit
from .interpreter import INSIDE
from .testfiles import UNITTEST

if TYPE_CHECKING:
    from ...running.interpreter import Interpreter
    from ..contract.kitfacts import OwnTests

RECORDER = INSIDE / "sprout_tests.py"
PYTEST = "pytest"
#  where pytest's settings stand, and the section that holds them (pytest 9.2)
_PYTEST_SECTIONS = {"pytest.ini": "pytest", "tox.ini": "pytest", "setup.cfg": "tool:pytest"}
_PROJECT = "pyproject.toml"


def programs(
    root: Path,
    interpreter: Interpreter,
    facts: OwnTests,
    folders: Mapping[str, str],
    probes: Sequence[Path] = (),
    project: Sequence[Path] = (),
) -> list[TestProgram]:
    """Return what runs the tests of modules, in as few starts as can be.

    folders -- of the modules, by their names; probes -- folders with what the command imports
    project -- the folders above the host that belong to its project
    """
    variables = {
        "PYTHONDONTWRITEBYTECODE": "1",
        "PYTHONPATH": os.pathsep.join(filter(None, (*map(str, (INSIDE, *probes)), os.environ.get("PYTHONPATH")))),
        **facts.variables,
    }
    settings = pytest_settings([root, *project])
    if settings is not None and all(map(interpreter.has, (PYTEST, *facts.pytest_needs))):
        ini = [] if settings.is_relative_to(root) else ["-c", str(settings), "--rootdir", str(root)]
        words = [str(interpreter.path), "-m", PYTEST, *ini, "-q", "-p", "no:cacheprovider"]
        report = ["-o", "junit_family=xunit1", "--junit-xml={records}"]
        command = (*words, *report, *(one for one in folders.values() if (root / one).is_dir()))
        return [TestProgram(PYTEST, command, variables, tuple(folders), read_pytest, _pytest_form(settings))]
    by_place: dict[str, list[str]] = defaultdict(list)
    for name, folder in folders.items():
        if not (root / folder).is_dir():
            continue  # a module of one file brings no tests
        by_place[folder.rpartition("/")[0] or "." if "{above}" in facts.recorded else ""].append(name)
    found = []
    for above, names in by_place.items():
        lists = {"{modules}": names, "{folders}": [folders[name] for name in names]}
        given = {"runtime": str(interpreter.path), "recorder": str(RECORDER), "above": above}
        words = [word for one in facts.recorded for word in lists.get(one) or [one.format(**given)]]
        found.append(TestProgram(facts.runner, tuple(words), variables, tuple(names), read_records, UNITTEST))
    return found


def pytest_settings(folders: Sequence[Path]) -> Path | None:
    """Return the nearest file that holds settings of pytest; None where the project does not use it."""
    paths = (folder / name for folder in folders for name in (*_PYTEST_SECTIONS, _PROJECT))
    return next((path for path in paths if _pytest_said(path) is not None), None)


def _pytest_said(path: Path) -> Mapping[str, Any] | None:
    """Return the settings of pytest in a file; None where it has none."""
    try:
        if path.name == _PROJECT:
            tool = tomli.loads(path.read_text("utf-8")).get("tool", {}).get("pytest")
            return tool.get("ini_options", tool) if isinstance(tool, dict) else None
        parser = ConfigParser(interpolation=None, strict=False)
        parser.read(path, "utf-8")
        section = _PYTEST_SECTIONS[path.name]
        return parser[section] if parser.has_section(section) else None
    except (OSError, ValueError, AttributeError, Error):
        return None


def _pytest_form(settings: Path) -> TestForm:
    said = (_pytest_said(settings) or {}).get("python_files", "test_*.py *_test.py")  # as pytest 9.2 has it
    return TestForm(tuple(said.split() if isinstance(said, str) else map(str, said)), functions=True)


def read_records(records: str, output: str) -> Recorded:
    """Read what ``inside/sprout_tests.py`` records."""
    found, tests, installed, any_told = set(), [], None, False
    refused = {}
    for record in _records(records):
        any_told = True
        if "found" in record:
            found.add(str(record["found"]))
        elif "installed" in record:
            installed = frozenset(map(str, record["installed"]))
        elif "refused" in record:
            refused[str(record["refused"])] = str(record["says"])
        elif "test" in record:
            tests.append(
                OwnTest(
                    str(record["test"]), str(record["file"]), int(record["line"]), Outcome(record["outcome"]),
                    float(record["seconds"]), str(record["says"]), str(record["failed_at"]),
                )
            )  # fmt: skip
    return Recorded(frozenset(found), tuple(tests), any_told, installed, refused)


def _records(text: str) -> Iterator[dict[str, Any]]:
    for line in text.splitlines():
        try:
            record = json.loads(line)
        except ValueError:  # it was ended as it wrote
            continue
        if isinstance(record, dict):
            yield record


def read_pytest(records: str, output: str) -> Recorded:
    """Read what pytest writes of a run."""
    tests = read_junit(records)
    return Recorded(frozenset(one.file for one in tests or () if one.file), tuple(tests or ()), tests is not None)
