"""Files with tests: which of a module's files hold some, and why a runner does not find one."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from fnmatch import fnmatchcase
from functools import lru_cache
from pathlib import Path, PurePosixPath
from typing import NamedTuple

from ...core.testing import NeverFound, TestForm
from ...disk.guard import read_content
from .sources import python_files

#  what unittest's discovery takes, and Django's (Python 3.13, Django 6.1)
UNITTEST = TestForm(("test*.py",), packages=True)

FAILING_FILE = "test_sprout_must_fail.py"
FAILING = b"""import unittest


class MustFail(unittest.TestCase):
    def test_that_must_fail(self):
        self.fail("this test must fail")
"""


class TestFile(NamedTuple):
    """What of a file is a test: classes that derive from one of the name, and functions that stand by themselves."""

    classes: tuple[str, ...]
    functions: tuple[str, ...]


def test_files(folder: Path) -> list[str]:
    """Return the files below a module's folder that hold tests, relative to it.

    Tests are methods whose names begin with ``test`` in a class of a test case, and in files or folders of tests any
    function or method of that name.
    """
    if not folder.is_dir():
        return []
    paths = (Path(one).relative_to(folder).as_posix() for one in python_files(folder))
    return [one for one in paths if (held := tests_in(folder / one)).classes or (held.functions and _says_tests(one))]


def tests_in(path: Path) -> TestFile:
    """Return what of a file is a test; nothing for one that cannot be parsed: the runner says so itself."""
    try:
        content = read_content(str(path))
    except OSError:
        return TestFile((), ())
    return _tests_in(content) if b"def test" in content else TestFile((), ())


@lru_cache(maxsize=512)
def _tests_in(content: bytes) -> TestFile:
    try:
        tree = ast.parse(content)
    except (SyntaxError, ValueError, RecursionError):
        return TestFile((), ())
    classes = [
        one.name
        for one in tree.body
        if isinstance(one, ast.ClassDef) and any(map(_is_test, one.body)) and (_is_case(one) or one.name[:4] == "Test")
    ]
    return TestFile(tuple(classes), tuple(one.name for one in tree.body if _is_test(one)))  # type: ignore[attr-defined]


def _is_test(node: ast.stmt) -> bool:
    return isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and node.name.startswith("test")


def _is_case(node: ast.ClassDef) -> bool:
    return any(ast.unparse(base).rpartition(".")[2].endswith(("TestCase", "Test", "Tests")) for base in node.bases)


def _says_tests(path: str) -> bool:
    return any("test" in part.lower() for part in PurePosixPath(path).parts)


def never_found(root: Path, folder: str, file: str, form: TestForm) -> NeverFound:
    """Return why a runner finds nothing in a file of a module, and what to do.

    root, folder -- of the host and of the module; file -- relative to the root; form -- what the runner takes for tests
    """
    path = PurePosixPath(file)
    if not any(fnmatchcase(path.name, one) for one in form.names):
        wanted = f"test_{path.name.removesuffix('_test.py').removesuffix('_tests.py').removesuffix('.py')}.py"
        return NeverFound(file, f"the runner takes files named {' or '.join(form.names)}", f"Name it {wanted}.")
    for above in _folders(path, folder) if form.packages else ():
        if not (root / above / "__init__.py").is_file():
            cause = f"{above} is no package, so that the runner does not look into it"
            return NeverFound(file, cause, f"Add an empty {above}/__init__.py.")
        if not above.rpartition("/")[2].isidentifier():
            return NeverFound(file, f"{above} has no name that can be imported", "Name it with letters and _ alone.")
    if form.packages and (root / file).with_suffix("").is_dir():
        cause = f"the package {path.with_suffix('')} beside it is imported in its place"
        return NeverFound(file, cause, f"Move its tests into {path.with_suffix('')}/.")
    if not form.functions and not tests_in(root / file).classes:
        cause = "its tests are plain functions, which this runner does not run"
        return NeverFound(file, cause, "Put them into a class of unittest.TestCase, or run them with pytest.")
    remedy = "Look for a setting, a mark or a load_tests function that hides them."
    return NeverFound(file, "the runner took no test from it", remedy, False)


def _folders(path: PurePosixPath, folder: str) -> Iterator[str]:
    """Yield the folders between a module and one of its files, the outermost first."""
    for parent in reversed(path.parents):
        if parent.as_posix().startswith(f"{folder}/"):
            yield parent.as_posix()
