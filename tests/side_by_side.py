"""Runs every test, two files of tests side by side: ``python -m tests.side_by_side``.

Each file runs in a process of its own; hosts are built once, by whoever needs one first, and copied from then on. A line
tells of each file, and what it printed where it did not pass.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path
from typing import NamedTuple

from trials.hosts import SHARED

HERE = Path(__file__).parent
AT_ONCE = 2
#  what takes longest begins first, so that nothing is left alone at the end
LONGEST = (
    "test_faults",
    "test_combinations",
    "test_field",
    "test_crash",
    "test_no_alarm",
    "wordpress",
    "test_confined",
    "test_attack",
)
_FAILED = re.compile(r"(?:failures|errors)=(\d+)")
_SKIPPED = re.compile(r"skipped=(\d+)")


class FileResult(NamedTuple):
    """How the tests of one file ended, and how long they took."""

    name: str
    ran: int
    failed: int
    skipped: int
    seconds: float
    printed: str


def test_files() -> list[str]:
    """Return the names of all modules with tests, those that take longest first."""
    paths = sorted(HERE.rglob("test_*.py"))
    names = [".".join(path.relative_to(HERE.parent).with_suffix("").parts) for path in paths]
    return sorted(names, key=lambda name: next((at for at, part in enumerate(LONGEST) if part in name), len(LONGEST)))


def run_file(name: str) -> FileResult:
    """Run the tests of one file in a process of its own."""
    began = time.monotonic()
    words = [sys.executable, "-m", "unittest", name]
    ended = subprocess.run(words, stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
    printed = ended.stdout.decode("utf-8", "replace")
    ran = sum(map(int, re.findall(r"^Ran (\d+) tests? in", printed, re.MULTILINE)))
    last = printed.strip().rpartition("\n")[2]
    failed = sum(map(int, _FAILED.findall(last))) or int(ended.returncode != 0 or not ran)
    skipped = sum(map(int, _SKIPPED.findall(last)))
    return FileResult(name, ran, failed, skipped, time.monotonic() - began, printed)


def main() -> int:
    """Run all; returns 1 when a test failed, or a file ran none."""
    results = []
    with tempfile.TemporaryDirectory(prefix="sprout-hosts-") as hosts, ThreadPoolExecutor(AT_ONCE) as pool:
        os.environ[SHARED] = str(Path(hosts).resolve())
        for future in as_completed([pool.submit(run_file, name) for name in test_files()]):
            result = future.result()
            results.append(result)
            verdict = f"{result.failed} FAILED" if result.failed else "passed"
            print(f"{result.seconds:6.0f} s  {result.ran:4} tests  {verdict:<9} {result.name}", flush=True)
            if result.failed:
                print(result.printed, flush=True)
    ran, failed, skipped = (
        sum(each) for each in zip(*((one.ran, one.failed, one.skipped) for one in results), strict=True)
    )
    print(f"{ran - failed - skipped} passed, {failed} failed, {skipped} skipped")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
