"""Prints the table: ``python -m benchmarks [--json] [WORD …]``, with the rows whose group is named, or all."""

from __future__ import annotations

import compileall
import json
import sys
import tempfile
from pathlib import Path

from . import content, layered, platform, rows
from .measure import Row

SOURCE = Path(__file__).parent.parent / "src"
GROUPS = {
    "startup": lambda _: rows.startup(),
    "making": rows.making,
    "adding": rows.adding,
    "producing": rows.producing,
    "checking": rows.checking,
    "many": rows.checking_many,
    "reading": rows.reading_many,
    "platform": platform.checking,
    "content": content.checking,
    "layered": layered.checking,
    "modules": platform.reading,
    "size": rows.size,
}


def main(words: list[str]) -> int:
    """Measure and print; returns 1 when a ratio is above what it may be."""
    compileall.compile_dir(SOURCE, quiet=1)  # as the installer does; some machines keep Python from doing it
    chosen = [word for word in words if word in GROUPS] or list(GROUPS)
    found: list[Row] = []
    for name in chosen:
        with tempfile.TemporaryDirectory() as folder:
            for row in GROUPS[name](Path(folder)):
                found.append(row)
                if "--json" not in words:
                    print_row(row)
    if "--json" in words:
        print(json.dumps([{**vars(row), "ratio": row.ratio} for row in found], indent=2))
    return 0 if all(row.kept for row in found) else 1


def print_row(row: Row) -> None:
    """Print one line of the table as soon as it is there."""
    verdict = "kept" if row.kept else "BROKEN"
    print(
        f"{row.name:<48} {row.seconds:8.3f} {row.unit:<2} / {row.floor:7.3f} = {row.ratio:6.2f}"
        f"  at most {row.at_most:<5g} {verdict}  (noise {row.noise:.0%})",
        flush=True,
    )


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
