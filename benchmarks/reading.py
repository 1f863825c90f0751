"""Static checks of very many modules: cold, warm, and how time and memory grow with their number."""

from __future__ import annotations

import itertools
import os
import shutil
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path

from swift_sprout.hosts.kits.django.trial import TRIAL as DJANGO
from trials.places import PROGRAM, PYTHON, RUNTIMES
from trials.recipes import HOSTS, KIT_FOLDERS

from .measure import Row, command, compare, median_of
from .places import FLOORS, add_modules, build_site, buoy_briefs, forget_state

TRYTOND_MODULES = HOSTS / "trytond-8.2-modules/bin/python"

MANY = 1000
GROWTH = (10, 100, 1000, 10000)
SETTLED_SECONDS = 2.5  # files younger than this are not trusted to be as they were


def static_check(site: Path, cache: Path, *words: str | Path) -> Callable[[], None]:
    """Return what checks a site from its files, with a cache in a folder of the benchmark's own."""
    found = (0, 1)  # the real modules have findings
    return command([PROGRAM, "check", "--static", "-q", "--host", site, *words], None, found, XDG_CACHE_HOME=str(cache))


def checking(folder: Path) -> Iterator[Row]:
    """A static check of 1,000 modules: cold against parsing once, warm against listing the tree with file times."""
    site, cache = build_site(folder), folder / "cache"
    add_modules(site, MANY)
    yield from cold_and_warm(f"django: check --static, {MANY:,} modules", site, site, cache)


def checking_real(folder: Path) -> Iterator[Row]:
    """The same for real trytond modules."""
    host, cache = folder / "platform", folder / "cache"
    (host / "modules").mkdir(parents=True)
    (host / "data").mkdir()
    shutil.copy(KIT_FOLDERS / "trytond/world/trytond.conf", host)
    library = next(TRYTOND_MODULES.parent.parent.glob("lib/python3*/site-packages/trytond/modules"))
    count = sum(path.is_dir() for path in library.iterdir())
    name = f"trytond: check --static, {count} real modules"
    yield from cold_and_warm(name, host, library, cache, "--runtime", TRYTOND_MODULES)


def cold_and_warm(name: str, site: Path, read: Path, cache: Path, *words: str | Path) -> Iterator[Row]:
    """Yield both rows; ``read`` is the folder that the floors parse and list."""
    check = static_check(site, cache, *words)

    yield compare(
        f"{name}, cold / parsing once",
        check,
        command([PYTHON, FLOORS / "parse.py", read]),
        1.5,
        repeats=7,
        before=forgetting(cache),
    )
    wait = command(["sleep", str(SETTLED_SECONDS)])
    wait()
    check()  # fills the cache
    yield compare(f"{name}, warm / listing it", check, command([PYTHON, FLOORS / "list_times.py", read]), 3, repeats=15)


def growing(folder: Path) -> Iterator[Row]:
    """Making and checking 10 to 10,000 modules: what one module more costs, and the memory that the most takes."""
    made: dict[int, float] = {}
    checked: dict[int, float] = {}
    peaks: dict[str, float] = {}
    for count in GROWTH:
        at = folder / str(count)
        at.mkdir()
        site, cache = build_site(at), at / "cache"
        repeats = 3 if count < GROWTH[-1] else 1
        check = static_check(site, cache)

        def away(site: Path = site) -> None:
            for module in site.glob("buoy_list_*"):
                shutil.rmtree(module)
            forget_state()

        make: list[str | Path] = [PROGRAM, "new", *buoy_briefs(at, count), "--host", site, "-q"]
        made[count] = median_of(command(make), repeats, away)
        DJANGO.list_modules(site, [f"buoy_list_{number}" for number in range(count)])
        checked[count] = median_of(check, repeats, forgetting(cache))
        if count == GROWTH[-1]:
            peaks["check --static"] = peak(PROGRAM, "check", "--static", "-q", "--host", site, cache=cache)
            away()
            peaks["new"] = peak(*make, cache=cache)
        shutil.rmtree(at)
    for what, times in (("new", made), ("check --static", checked)):
        for fewer, more in itertools.pairwise(GROWTH[1:]):
            each, base = (times[more] - times[fewer]) / (more - fewer), times[fewer] / fewer
            yield Row(f"{what}: a module of {more:,} / one of {fewer:,}", each * 1000, base * 1000, 1.25, 0.0, "ms")
    for what, megabytes in peaks.items():
        yield Row(f"{what}: memory at {GROWTH[-1]:,} modules / 1 MB", megabytes, 1.0, 300, 0.0, "MB")


def living(folder: Path) -> Iterator[Row]:
    """The memory of a live check of 200 modules."""
    site = build_site(folder)
    add_modules(site, 200)
    command([RUNTIMES["django"], "manage.py", "migrate", "--no-input", "-v", "0"], site)()
    megabytes = peak(PROGRAM, "check", "-q", "--host", site, "--runtime", RUNTIMES["django"], cache=folder / "cache")
    yield Row("django: memory of a check of 200 modules / 1 MB", megabytes, 1.0, 150, 0.0, "MB")


def forgetting(cache: Path) -> Callable[[], None]:
    """Return what deletes the cache of checks."""
    return lambda: shutil.rmtree(cache, ignore_errors=True)


def peak(*words: str | Path, cache: Path) -> float:
    """Return the peak memory of a command in megabytes: that of the largest of its processes."""
    shutil.rmtree(cache, ignore_errors=True)
    ran = subprocess.run(
        [PYTHON, FLOORS / "peak.py", *words],
        capture_output=True,
        text=True,
        check=True,
        env={**os.environ, "XDG_CACHE_HOME": str(cache)},
    )
    return float(ran.stdout.split()[-1])
