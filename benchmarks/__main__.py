"""Prints the table of ratios: ``python -m benchmarks [--json] [--keep] [GROUP …]``, of the named groups or of all."""

from __future__ import annotations

import argparse
import compileall
import json
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

from trials.places import REPOSITORY, RUNTIMES

from . import history, live, making, patterns, reading, renaming, size
from .measure import Row

GROUPS: dict[str, Callable[[Path], Iterator[Row]]] = {
    "startup": making.starting,
    "making": making.making,
    "adding": making.adding,
    "producing": making.producing,
    "renaming": renaming.renaming,
    "patterns": patterns.patterning,
    "static": reading.checking,
    "real": reading.checking_real,
    **{f"live-{kit}": live.of(kit) for kit in RUNTIMES},
    "growth": reading.growing,
    "memory": reading.living,
    "size": size.installed,
}


def main(words: list[str]) -> int:
    """Measure and print; returns 1 when a ratio is above what it may be."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks", description=__doc__)
    parser.add_argument("groups", metavar="GROUP", nargs="*", choices=[[], *GROUPS], help=", ".join(GROUPS))
    parser.add_argument("--json", action="store_true", help="print a document instead of the table")
    parser.add_argument("--keep", action="store_true", help="keep the figures in benchmarks/history and draw the chart")
    options = parser.parse_args(words)
    compileall.compile_dir(REPOSITORY / "src", quiet=1)  # as the installer does; some machines keep Python from it
    found: list[Row] = []
    for name in options.groups or GROUPS:
        with tempfile.TemporaryDirectory() as folder:
            for row in GROUPS[name](Path(folder)):
                found.append(row)
                if not options.json:
                    print_row(row)
    if options.json:
        print(json.dumps(history.document(found), indent=2))
    if options.keep:
        history.keep(found)
        history.draw()
    return 0 if all(row.kept for row in found) else 1


def print_row(row: Row) -> None:
    """Print one line of the table as soon as it is there."""
    verdict = "kept" if row.kept else "BROKEN"
    print(
        f"{row.name:<58} {row.seconds:8.3f} {row.unit:<2} / {row.floor:7.3f} = {row.ratio:6.2f}"
        f"  at most {row.at_most:<5g} {verdict}  ({row.repeats} runs, noise {row.noise:.0%})",
        flush=True,
    )


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
