"""Runs every test, half of them in each of two processes: ``python -m tests.in_halves``.

The halves take about as long as each other: one holds the faults on every host and what is tried on WordPress, the other
all else. What each prints comes whole, one behind the other.
"""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
from pathlib import Path

HERE = Path(__file__).parent
FIRST_HALF = ("program.test_faults", "hosts.test_no_alarm", "program.test_crash", "program.wordpress.")


def modules() -> list[str]:
    """Return the names of all modules with tests."""
    paths = sorted(HERE.rglob("test_*.py"))
    return [".".join(path.relative_to(HERE.parent).with_suffix("").parts) for path in paths]


def main() -> int:
    """Run both halves; returns 1 when a test failed, or one of the halves ran none."""
    known = modules()
    first = [name for name in known if name.removeprefix("tests.").startswith(FIRST_HALF)]
    halves = [first, [name for name in known if name not in first]]
    counts = {"passed": 0, "failed": 0, "skipped": 0}
    with tempfile.TemporaryDirectory() as folder:
        outputs = [Path(folder, str(number)) for number in range(len(halves))]
        running = [
            subprocess.Popen(
                [sys.executable, "-m", "unittest", *half], stdout=output.open("wb"), stderr=subprocess.STDOUT
            )
            for half, output in zip(halves, outputs, strict=True)
        ]
        statuses = [process.wait() for process in running]
        for output in outputs:
            text = output.read_text("utf-8", "replace")
            print(text, flush=True)
            ran = sum(map(int, re.findall(r"^Ran (\d+) tests? in", text, re.MULTILINE)))
            last = text.strip().rpartition("\n")[2]
            said = {word: int(number) for word, number in re.findall(r"(failures|errors|skipped)=(\d+)", last)}
            failed = said.get("failures", 0) + said.get("errors", 0)
            counts["failed"] += failed or (not ran)
            counts["skipped"] += said.get("skipped", 0)
            counts["passed"] += max(ran - failed - said.get("skipped", 0), 0)
    print(", ".join(f"{number} {word}" for word, number in counts.items()))
    return 1 if counts["failed"] or any(statuses) else 0


if __name__ == "__main__":
    sys.exit(main())
