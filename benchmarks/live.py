"""A live check of many modules against the bare boot of their host with as many requests, on every host kind."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from trials.hosts import build_demo, runtime_options, trial
from trials.places import PROGRAM, RUNTIMES

from .measure import Row, command, compare
from .places import make_beacons

COUNT = 100
#  some load the host a second time, for its administration or its own checks of modules; others draw their pages with a
#  record, where the floor's tables are empty; and a page of a bare Flask site costs so little that what is asked beside
#  the pages weighs more
AT_MOST = 1.5


def of(kit: str) -> Callable[[Path], Iterator[Row]]:
    """Return what measures a live check of 100 modules on the host of a kit."""

    def checking(folder: Path) -> Iterator[Row]:
        host = folder / kit
        host.mkdir()
        build_demo(kit, host)
        names = make_beacons(folder, host, kit, "list", trial(kit).page_address, COUNT)
        boot = trial(kit).register_many(host, names, RUNTIMES[kit])
        yield compare(
            f"{kit}: check, {COUNT} modules / boot, {COUNT} requests",
            command([PROGRAM, "check", *names, "--host", host, "-q", *runtime_options(kit)]),
            command([*boot.words, *(boot.address(name) for name in names)], host),
            AT_MOST,
            repeats=5,
        )
        boot.end()

    return checking
