"""The crash bench: ``python -m benchmarks.crash [--every N] [KIT …] [COMMAND …]``.

Each command that writes is ended at every one of its file operations: killed outright, and with the operation failing
for want of space or rights, on a read-only disk, or interrupted. Then the next command runs. The tree must be, byte for
byte, the one before or the one after, what was killed must be undone by ``undo`` where it came to its end, and the
host must boot.
"""

from __future__ import annotations

import argparse
import json
import os
import shutil
import sys
import tempfile
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from trials.crash.cases import Case, cases
from trials.crash.runs import ENDINGS, Bench, Result
from trials.hosts import built_demo
from trials.places import RUNTIMES

COMMANDS = ("new", "add", "refresh", "undo", "enable", "remove", "drop")


def main(words: list[str]) -> int:
    """Print a line for each command and ending; returns 1 when one point was torn, or a host did not boot."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks.crash", description=__doc__)
    parser.add_argument("only", metavar="KIT|COMMAND", nargs="*", help=", ".join([*RUNTIMES, *COMMANDS]))
    parser.add_argument("--every", type=int, default=1, metavar="N", help="only each N-th operation")
    parser.add_argument("--ending", action="append", choices=ENDINGS, metavar="NAME", help=", ".join(ENDINGS))
    parser.add_argument("--json", metavar="FILE", type=Path, help="also write the counts as a document")
    options = parser.parse_args(words)
    kits = [one for one in options.only if one in RUNTIMES] or list(RUNTIMES)
    commands = [one for one in options.only if one in COMMANDS] or list(COMMANDS)
    room = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
    results: list[Result] = []
    with tempfile.TemporaryDirectory(dir=room) as folder, ProcessPoolExecutor(2) as pool:
        demos = {kit: built_demo(kit) for kit in kits}
        wanted = [(kit, case) for kit in kits for case in cases(kit) if case.name in commands]
        print(f"{'host':<10} {'command':<8} {'ending':<14} points  before  after  torn  no boot  tracebacks")
        rounds = [
            pool.submit(ended_all_over, kit, case, demos[kit], Path(folder), options.every, options.ending or ENDINGS)
            for kit, case in wanted
        ]
        for each in rounds:
            for result in each.result():
                results.append(result)
                print(result.line(), flush=True)
    total: Counter[str] = Counter()
    for result in results:
        total.update(result.counts)
    bad = total["torn"] + total["no boot"] + total["tracebacks"]
    print(f"{total['points']} points, {total['before']} before, {total['after']} after, {bad} bad")
    if options.json:
        rows = [{"kit": one.kit, "command": one.command, "ending": one.ending, **one.counts} for one in results]
        options.json.write_text(json.dumps({"format": "swift-sprout/crash/1", "rows": rows}, indent=1) + "\n")
    return 1 if bad else 0


def ended_all_over(kit: str, case: Case, demo: Path, room: Path, every: int, endings: Sequence[str]) -> list[Result]:
    """End one command at its file operations in each of the given ways."""
    folder = Path(tempfile.mkdtemp(dir=room.resolve()))
    try:
        bench = Bench(kit, case, demo, folder)
        return [bench.run(ending, every) for ending in endings]
    finally:
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
