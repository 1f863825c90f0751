"""Modules' own tests: each brings a program in its folder of tests that runs them in the host."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from ....core.testing import NeverFound, Outcome, OwnTest, Recorded
from ...contract.testing import TestProgram
from .php import PROBE, words

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from .reading.modules import ModuleFiles
    from .view import HostView

RUNNER = "tests/run.php"
_METHOD = re.compile(rb"^\s*(?:(?:final|public|static)\s+)*function\s+(test\w+)\s*\(", re.MULTILINE)
#  as the program that is made with a module prints them
_LINE = re.compile(r"^(?P<ended>ok|FAILED) +(?P<name>test\w*)(?:\n {4,}(?P<says>.+))?", re.MULTILINE)
_FAILED_AT = re.compile(r"\((?P<file>[\w.-]+\.php):(?P<line>\d+)\)$")
_NOT_ON = "not switched on"


def test_files(view: HostView, module: ModuleFiles) -> list[str]:
    """Return the files of a module with methods whose names begin with ``test``, below a folder of tests."""
    found = (path for path in sorted(module.folder.rglob("*.php")) if "tests" in path.relative_to(module.folder).parts)
    return [view.relative(path) for path in found if "vendor" not in path.parts and _METHOD.search(path.read_bytes())]


def test_programs(view: HostView, modules: Sequence[ModuleFiles], limit_seconds: float) -> list[TestProgram]:
    """Return a program for each module that brings one; raises HostFailed."""
    php = view.ready(limit_seconds)
    found = []
    for one in modules:
        path = one.folder / RUNNER
        if path.is_file():
            prepend = ["-d", f"auto_prepend_file={PROBE / 'sandbox.php'}"]
            command = words(php, view.root, [*prepend, str(path)])
            found.append(TestProgram(RUNNER, tuple(command), view.environment(), (one.name,), _reader(view, one)))
    return found


def _reader(view: HostView, module: ModuleFiles) -> Callable[[str, str], Recorded]:
    """Return what reads the output of a module's program."""
    files = test_files(view, module)
    places: dict[str, tuple[str, int]] = {}
    for file in files:
        content = (view.root / file).read_bytes()
        for method in _METHOD.finditer(content):
            places.setdefault(method[1].decode(), (file, content.count(b"\n", 0, method.start(1)) + 1))

    def read(records: str, output: str) -> Recorded:
        tests = []
        for line in _LINE.finditer(output):
            file, number = places.get(line["name"], (view.relative(module.folder / RUNNER), 0))
            says = (line["says"] or "").strip() if line["ended"] == "FAILED" else ""
            at = _FAILED_AT.search(says)
            outcome = Outcome.FAILED if line["ended"] == "FAILED" else Outcome.PASSED
            failed_at = next((f"{one}:{at['line']}" for one in files if at and one.endswith(f"/{at['file']}")), "")
            tests.append(OwnTest(line["name"], file, number, outcome, 0.0, says, failed_at))
        return Recorded(frozenset(one.file for one in tests), tuple(tests), bool(tests))

    return read


def never_found(view: HostView, module: ModuleFiles, file: str) -> NeverFound:
    """Return why no test of a file was run."""
    runner = view.relative(module.folder / RUNNER)
    if not (module.folder / RUNNER).is_file():
        return NeverFound(file, f"there is no {runner}, and no other runner is known here", "Run it by its own runner.")
    return NeverFound(file, f"{runner} does not take it", f"Let {runner} load it.")
