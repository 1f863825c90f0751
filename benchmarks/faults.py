"""The fault bench: every fault on a fresh copy of a healthy site, and what the check says of it.

``python -m benchmarks.faults [CODE …]`` prints fault x (found from files / found live / named first / seconds).
"""

from __future__ import annotations

import shutil
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import NamedTuple

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.actions.making import Wanted, make
from swift_sprout.actions.switching import enable
from swift_sprout.core.results import CheckResult
from swift_sprout.hosts.faults import Fault, apply_fault, load_faults

from .measure import command
from .places import DJANGO, REPOSITORY, WORLD

FAULTS = REPOSITORY / "src/swift_sprout/hosts/django/faults"
DATABASE = "brindle_quay.sqlite3"


class Verdict(NamedTuple):
    """What the checks said of one fault; ``others`` are codes that were named beside it and do not follow from it."""

    code: str
    static: bool
    live: bool
    first: bool
    place: str
    others: tuple[str, ...]
    seconds: float

    @property
    def good(self) -> bool:
        """True when the live check named the cause first, at the right file."""
        return self.live and self.first


def build_healthy_site(folder: Path) -> Path:
    """Build the demo site with two healthy modules, enabled and with their tables.

    One was written by hand and is laid over it; the other is made from the brief with every kind of part.
    """
    site = folder / "site"
    shutil.copytree(WORLD / "django", site, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copytree(FAULTS / "healthy", site, dirs_exist_ok=True, ignore=shutil.ignore_patterns("__pycache__"))
    entry = '    "ferries",  # timetable of the quay ferry\n'
    settings, urls = site / "brindle_quay/settings.py", site / "brindle_quay/urls.py"
    settings.write_text(settings.read_text().replace(entry, entry + '    "pilotage",\n'))
    line = '    path("ferries/", include("ferries.urls")),\n'
    urls.write_text(urls.read_text().replace(line, line + '    path("pilots/", include("pilotage.urls")),\n'))
    command([DJANGO, "manage.py", "migrate", "--no-input", "-v", "0"], site)()
    opened = open_host(HostChoice(str(site), "django", str(DJANGO)))
    make(opened, Wanted(briefs=(str(WORLD / "berth_register.toml"),)))
    enable(open_host(opened.choice), "berth_register", None, preview=False)
    shutil.rmtree(site / ".swift-sprout")
    return site


def judge(fault: Fault, healthy: Path) -> Verdict:
    """Apply one fault to a copy of the healthy site and check it, from its files alone and live."""
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder).resolve() / "site"
        shutil.copytree(healthy, site)
        apply_fault(fault, site, site / DATABASE)
        opened = open_host(HostChoice(str(site), "django", str(DJANGO), fault.limit_seconds))
        static = check(opened, [], static=True)
        began = time.perf_counter()
        live = check(opened, [], static=False)
        seconds = time.perf_counter() - began
    named = list(unfolded(live, fault.module))
    first = named[0] if named else ("", "")
    return Verdict(
        fault.code,
        any(code == fault.code for code, _ in unfolded(static, fault.module)),
        any(code == fault.code for code, _ in named),
        first[0] == fault.code and first[1].rstrip("/") == fault.first,
        f"{first[0]} {first[1]}",
        tuple(sorted({code for code, _ in unfolded(live, None)} - {fault.code})),
        seconds,
    )


def unfolded(result: CheckResult, module: str | None) -> Iterator[tuple[str, str]]:
    """Yield code and file of the findings about a module (None: about all) that follow from no other, in order."""
    for finding in result.findings:
        if not finding.follows_from and module in (None, finding.module):
            yield finding.code, finding.file


def judge_all(codes: list[str], healthy: Path) -> Iterator[Verdict]:
    """Judge the faults of the named codes, or all, on both cores."""
    faults = [fault for fault in load_faults(FAULTS, "pilotage") if not codes or fault.code in codes]
    with ProcessPoolExecutor(2) as pool:
        yield from pool.map(judge, faults, [healthy] * len(faults))


def main(codes: list[str]) -> int:
    """Print the table; returns 1 when a fault was not named first, or a healthy module had a finding."""
    with tempfile.TemporaryDirectory() as folder:
        healthy = build_healthy_site(Path(folder).resolve())
        result = check(open_host(HostChoice(str(healthy), "django", str(DJANGO))), [], static=False)
        alarms = [f"{finding.code} {finding.place}" for finding in result.findings]
        print(f"healthy: {len(alarms)} findings {', '.join(alarms)}")
        verdicts = []
        print(f"{'fault':<34} files  live   first  seconds  others")
        for verdict in judge_all(codes, healthy):
            verdicts.append(verdict)
            marks = ["yes" if mark else "no" for mark in (verdict.static, verdict.live, verdict.first)]
            note = "" if verdict.good else f"  got: {verdict.place}"
            cells = f"{marks[0]:<5}  {marks[1]:<5}  {marks[2]:<5}  {verdict.seconds:7.2f}"
            print(f"{verdict.code:<34} {cells}  {' '.join(verdict.others)}{note}", flush=True)
        good = sum(verdict.good for verdict in verdicts)
        static = sum(verdict.static for verdict in verdicts)
        print(f"{good} of {len(verdicts)} faults named first, {static} found from files alone")
    return 0 if good == len(verdicts) and not alarms else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
