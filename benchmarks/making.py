"""Start-up, and making modules, against doing the same bare."""

from __future__ import annotations

import pickle
import shutil
from collections.abc import Iterator
from pathlib import Path

from swift_sprout.hosts.shared.demo import BRIEFS
from trials.places import PROGRAM, PYTHON

from .measure import Row, command, compare
from .places import FLOORS, build_site, buoy_briefs, forget_state

PRODUCED = 1000


def starting(folder: Path) -> Iterator[Row]:
    """Starting the program against starting a bare interpreter."""
    bare = command([PYTHON, "-c", "pass"])
    yield compare("--version / bare interpreter", command([PROGRAM, "--version"]), bare, 3.0, repeats=31)
    yield compare("--help / bare interpreter", command([PROGRAM, "--help"]), bare, 2.5, repeats=31)


def making(folder: Path) -> Iterator[Row]:
    """Making a whole module against copying the same files with Python."""
    site = build_site(folder)
    template, module = folder / "template", site / "tide_board"
    make = command([PROGRAM, "new", "--brief", BRIEFS / "tide_board.toml", "--host", site])
    make()
    shutil.copytree(module, template)

    def away() -> None:
        shutil.rmtree(module, ignore_errors=True)
        forget_state()

    copy = command([PYTHON, FLOORS / "copy_tree.py", template, module])
    #  a run of the formatter is a third of it
    yield compare("new, whole module / copy of its files", make, copy, 7, repeats=21, before=away)
    flushed = command([PYTHON, FLOORS / "copy_flushed.py", template, module])  # as everything that is written here is
    yield compare("new, whole module / copy of its files, flushed", make, flushed, 6, repeats=21, before=away)


def adding(folder: Path) -> Iterator[Row]:
    """Adding one part to a module of 40 files against starting a bare interpreter."""
    site = build_site(folder)
    command([PROGRAM, "new", "--brief", BRIEFS / "berth_register.toml", "--host", site])()
    kept, module = folder / "kept", site / "berth_register"
    shutil.copytree(module, kept)

    def back() -> None:
        shutil.rmtree(module)
        shutil.copytree(kept, module)
        forget_state()

    count = sum(path.is_file() for path in module.rglob("*"))
    yield compare(
        f"add, one record to {count} files / bare interpreter",
        command([PROGRAM, "add", "record", "Buoy: name text(40)", "--to", "berth_register", "--host", site]),
        command([PYTHON, "-c", "pass"]),
        14,
        repeats=15,
        before=back,
    )


def producing(folder: Path) -> Iterator[Row]:
    """Making 1,000 modules of as many briefs in one run against writing the same bytes with Python."""
    site = build_site(folder)
    produce = command([PROGRAM, "new", *buoy_briefs(folder, PRODUCED), "--host", site, "-q"])
    produce()
    made = {
        path.relative_to(site).as_posix(): path.read_bytes()
        for module in sorted(site.glob("buoy_list_*"))
        for path in module.rglob("*")
        if path.is_file()
    }
    (folder / "made.pickle").write_bytes(pickle.dumps(made))

    def away() -> None:
        for module in site.glob("buoy_list_*"):
            shutil.rmtree(module)
        forget_state()

    yield compare(
        f"new, {PRODUCED:,} briefs ({len(made):,} files) / writing the bytes",
        produce,
        command([PYTHON, FLOORS / "write_files.py", folder / "made.pickle", site]),
        3,
        repeats=5,
        before=away,
    )
