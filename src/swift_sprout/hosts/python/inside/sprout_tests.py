"""Runs modules' own tests in the host's interpreter and records each: found, passed, failed or skipped, and where.

As a program: the folder that packages are imported from, then the modules' folders. Each record is a JSON line in the
file that SPROUT_RECORDS names:

    {"tests": 3}
    {"found": "tide_board/tests/test_tides.py"}
    {"refused": "tide_board", "says": "ImportError: …"}
    {"test": "TidesTest.test_the_list", "file": …, "line": 12, "outcome": "passed", "seconds": 0.01, "says": "", …}
"""

import functools
import inspect
import json
import os
import re
import sys
import time
import traceback
import unittest

ROOT = os.path.realpath(os.getcwd())
LONGEST = 2000
FRAME = re.compile(r'File "([^"]+)", line (\d+)')


def say(record):
    """Add a record."""
    with open(os.environ["SPROUT_RECORDS"], "ab", 0) as records:  # the runner may part into several processes
        records.write(json.dumps(record).encode() + b"\n")


def cases_in(suite):
    """Yield the tests of a suite, whatever suites it holds."""
    for one in suite:
        if isinstance(one, unittest.TestSuite):
            yield from cases_in(one)
        else:
            yield one


def tell_found(suite):
    """Record the files that the tests of a suite stand in, and how many tests there are."""
    say({"tests": suite.countTestCases()})
    for file in sorted({place_of(one)[0] for one in cases_in(suite)} - {""}):
        say({"found": file})


def place_of(test):
    """Return the file of a test, relative to the host's root, and its line; empty and 0 where there is none."""
    if type(test).__name__ == "_FailedTest":  # a file that could not be imported, by its dotted name
        return file_of(test._testMethodName), 0
    if not isinstance(test, unittest.TestCase):  # what a class or a file sets up: "setUpClass (tide_board.tests.Tides)"
        dotted = str(test).partition("(")[2].rstrip(")")
        return file_of(dotted) or file_of(dotted.rpartition(".")[0]), 0
    try:
        method = inspect.unwrap(getattr(type(test), test._testMethodName))
        return source_of(type(test)), method.__code__.co_firstlineno
    except (AttributeError, TypeError):
        return file_of(type(test).__module__), 0


@functools.cache
def source_of(case):
    """Return the file of a class, relative to the host's root."""
    return relative(inspect.getsourcefile(case) or "")


def name_of(test):
    """Return what people call a test: its class and method, or what was set up."""
    if type(test).__name__ == "_FailedTest":
        return f"import of {test._testMethodName}"
    return ".".join(test.id().split(".")[-2:]) if isinstance(test, unittest.TestCase) else str(test)


def file_of(dotted):
    """Return the file of a module by its dotted name, from the import path; empty where there is none."""
    below = os.path.join(*dotted.split("."))
    for folder in sys.path:
        for ending in (".py", os.path.join("", "__init__.py")):
            path = os.path.join(folder or ROOT, below + ending)
            if os.path.isfile(path):
                return relative(path)
    return ""


def relative(path):
    """Return a path below the host's root as such; others as they are."""
    real = os.path.realpath(path)
    return os.path.relpath(real, ROOT) if path and real.startswith(ROOT + os.sep) else path


def told(error):
    """Return what an error says, and the deepest place in the host's own files where it arose, or nothing."""
    says = "".join(traceback.format_exception_only(type(error), error)).strip()
    places = [(frame.filename, frame.lineno) for frame in traceback.extract_tb(error.__traceback__)]
    if says.startswith("ImportError: Failed to import test module"):  # the loader keeps the error as a text
        places = FRAME.findall(says)
        says = says.splitlines()[-1]
    own = [(relative(file), line) for file, line in places]
    own = [one for one in own if not os.path.isabs(one[0]) and "site-packages" not in one[0]]
    return says, "{}:{}".format(*own[-1]) if own else ""


def recording(base):
    """Return a class of results that records each test as well as it does what the given one does."""

    class Recording(base):
        def startTest(self, test):
            super().startTest(test)
            self._sprout_began = time.monotonic()
            self._sprout_told = False

        def stopTest(self, test):
            super().stopTest(test)
            self._sprout_began = None

        def addSuccess(self, test):
            super().addSuccess(test)
            if not self._sprout_told:
                self._sprout_say(test, "passed")

        def addFailure(self, test, err):
            super().addFailure(test, err)
            self._sprout_say(test, "failed", err[1])

        def addError(self, test, err):
            super().addError(test, err)
            self._sprout_say(test, "failed", err[1])

        def addSkip(self, test, reason):
            super().addSkip(test, reason)
            self._sprout_say(test, "skipped", says=reason)

        def addExpectedFailure(self, test, err):
            super().addExpectedFailure(test, err)
            self._sprout_say(test, "passed")

        def addUnexpectedSuccess(self, test):
            super().addUnexpectedSuccess(test)
            self._sprout_say(test, "failed", says="it was expected to fail, and passed")

        def addSubTest(self, test, subtest, err):
            super().addSubTest(test, subtest, err)
            if err is not None:
                self._sprout_say(test, "failed", err[1], part=str(subtest).partition(") ")[2])

        def _sprout_say(self, test, outcome, error=None, says="", part=""):
            file, line = place_of(test)
            began = getattr(self, "_sprout_began", None)
            at = ""
            if error is not None:
                says, at = told(error)
            say(
                {
                    "test": name_of(test) + (f" {part}" if part else ""),
                    "file": file or at.rpartition(":")[0],
                    "line": line,
                    "outcome": outcome,
                    "seconds": round(time.monotonic() - began, 4) if began is not None else 0.0,
                    "says": says[:LONGEST],
                    "failed_at": at,
                }
            )
            self._sprout_told = True

    return Recording


def main(words):
    """Run the tests below folders; returns the exit status."""
    top, *folders = words
    sys.path[:1] = [os.path.abspath(top), ROOT]
    suite = unittest.TestSuite()
    for folder in folders:
        try:
            suite.addTests(unittest.TestLoader().discover(folder, top_level_dir=top))
        except (ImportError, SyntaxError) as error:
            say({"refused": folder, "says": f"{type(error).__name__}: {error}"})
    tell_found(suite)
    result = unittest.TextTestRunner(resultclass=recording(unittest.TextTestResult)).run(suite)
    return 0 if result.wasSuccessful() else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
