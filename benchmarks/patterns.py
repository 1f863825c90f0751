"""Making modules from a pattern, against writing the same bytes."""

from __future__ import annotations

import pickle
import shutil
from collections.abc import Iterator
from pathlib import Path

from trials.places import PROGRAM, PYTHON

from .measure import Row, command, compare
from .places import FLOORS, build_site, buoy_briefs, forget_state

MODULES = 1000


def patterning(folder: Path) -> Iterator[Row]:
    """Making 1,000 modules from a pattern in one run against writing the same bytes with Python."""
    site = build_site(folder)
    command([PROGRAM, "new", *buoy_briefs(folder, 1), "--host", site, "-q"])()
    donor = next(site.glob("buoy_list_*")).name
    command([PROGRAM, "pattern", "take", donor, "--as", "buoys", "--host", site, "-q"])()
    rows = folder / "rows.csv"
    #  as many letters as there are digits in the number
    names = [f"Mooring {''.join(chr(97 + int(digit)) for digit in f'{number:04}')}" for number in range(MODULES)]
    rows.write_text("module,Buoy\n" + "".join(f"{name},Anchor\n" for name in names), "utf-8")
    words: list[str | Path] = ["new", "--pattern", "buoys", "--from", rows, "--no-check", "--host", site, "-q"]
    produce = command([PROGRAM, *words])
    produce()
    made = {
        path.relative_to(site).as_posix(): path.read_bytes()
        for module in sorted(site.glob("mooring_*"))
        for path in module.rglob("*")
        if path.is_file()
    }
    (folder / "made.pickle").write_bytes(pickle.dumps(made))

    def away() -> None:
        for module in site.glob("mooring_*"):
            shutil.rmtree(module)
        forget_state()

    yield compare(
        f"new, {MODULES:,} rows ({len(made):,} files) / writing the bytes",
        produce,
        command([PYTHON, FLOORS / "write_files.py", folder / "made.pickle", site]),
        3,
        repeats=5,
        before=away,
    )
