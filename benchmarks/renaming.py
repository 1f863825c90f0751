"""Renaming a module in a host of very many files, against reading those files once."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from trials.places import PROGRAM, PYTHON

from .measure import Row, command, compare
from .places import FLOORS

MODULES, FILES, BESIDE = 100, 30, 7000


def renaming(folder: Path) -> Iterator[Row]:
    """Look what renaming a module of 30 files changes among 10,000: nothing is written, so that all runs are alike."""
    host = folder / "town"
    for number in range(MODULES):
        name = f"berth_list_{chr(97 + number // 26)}{chr(97 + number % 26)}"
        for part in range(FILES):
            text = "".join(f"    mooring_{line} = {name}.rope({line})\n" for line in range(40))
            place = host / f"modules/{name}/part_{part}.py"
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_text(f"from modules.{name} import ropes\n\n\nclass Ropes:\n{text}", "utf-8")
    for number in range(BESIDE):
        place = host / f"pages/{number // 100}/page_{number}.html"
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_text("<p>High water at the mole, low water at the slip.</p>\n" * 40, "utf-8")
    words = ["rename", "berth_list_aa", "Winch yard", "--preview", "-q", "--modules", "modules", "--host", str(host)]
    yield compare(
        f"rename, {FILES} files among {MODULES * FILES + BESIDE:,} / reading them once",
        command([PROGRAM, *words]),
        command([PYTHON, FLOORS / "read_files.py", host]),
        3,
        repeats=7,
    )
