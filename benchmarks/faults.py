"""The fault bench: every fault on a fresh copy of a healthy site, and what the check says of it.

``python -m benchmarks.faults [KIT …] [CODE …]`` prints fault x (found from files / found live / named first / seconds).
"""

from __future__ import annotations

import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import NamedTuple

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.actions.making import Wanted, make
from swift_sprout.actions.switching import enable, settle
from swift_sprout.core.results import CheckResult
from swift_sprout.hosts.contract.kit import HostOptions
from swift_sprout.hosts.kits.wordpress.database import own_server
from swift_sprout.hosts.registry import kit_named
from swift_sprout.hosts.shared.faults import Fault, apply_fault, load_faults

from .places import INTERPRETERS, REPOSITORY, WORLD

KITS = REPOSITORY / "src/swift_sprout/hosts/kits"
DATABASES = {
    "django": "brindle_quay.sqlite3",
    "trytond": "data/brindle_quay.sqlite",
    "flask": "brindle_quay.sqlite3",
    "wagtail": "brindle_quay.sqlite3",
    "oscar": "brindle_quay.sqlite3",
}
LINKED = ("wp-admin", "wp-includes")  # folders of a host that no fault touches
BRIEFS = {
    "flask": "tide_board",
    "wagtail": "tide_pages",
    "oscar": "chandlery_offers",
}  # the brief that the second module is made from, where it is not berth_register
MODULE = "pilotage"
OVERRIDES = {"oscar": ("landing",)}  # healthy modules that take the place of one of the host's own


class Verdict(NamedTuple):
    """What the checks said of one fault; ``others`` are codes that were named beside it and do not follow from it."""

    code: str
    static: bool
    live: bool
    first: bool
    got: str
    others: tuple[str, ...]
    seconds: float

    @property
    def good(self) -> bool:
        """True when the live check named the cause first, at the right file."""
        return self.live and self.first


def build_healthy_host(kit: str, folder: Path) -> Path:
    """Build the demo host of a kit with two healthy modules, enabled and with their tables.

    One was written by hand and is laid over it; the other is made from the brief with every kind of part.
    """
    site = folder / "site"
    site.mkdir()
    kit_named(kit).build_demo(site, HostOptions(str(INTERPRETERS[kit])))
    shutil.copytree(
        KITS / kit / "faults/healthy", site, dirs_exist_ok=True, ignore=shutil.ignore_patterns("__pycache__")
    )
    if kit == "django":
        entry = '    "ferries",  # timetable of the quay ferry\n'
        settings, urls = site / "brindle_quay/settings.py", site / "brindle_quay/urls.py"
        settings.write_text(settings.read_text().replace(entry, entry + '    "pilotage",\n'))
        line = '    path("ferries/", include("ferries.urls")),\n'
        urls.write_text(urls.read_text().replace(line, line + '    path("pilots/", include("pilotage.urls")),\n'))
    choice = HostChoice(str(site), kit, str(INTERPRETERS[kit]))
    brief = BRIEFS.get(kit, "berth_register")
    make(open_host(choice), Wanted(briefs=(str(WORLD / f"{brief}.toml"),)))
    for module in (*OVERRIDES.get(kit, ()), MODULE, brief):
        enable(open_host(choice), module, None, preview=False)
    if kit == "oscar":
        settle(open_host(choice), [brief], samples=True)
    if (server := own_server(site)) is not None:
        server.stop()  # so that its data can be copied
    return site


def move_host(kit: str, healthy: Path, site: Path) -> None:
    """Copy a host to another folder, so that it works there."""
    site.mkdir()
    for entry in healthy.iterdir():
        if entry.is_dir():
            copy = os.link if entry.name in LINKED else shutil.copy2
            left_out = shutil.ignore_patterns("socket", "server.pid", "users", "started-for-a-command")
            shutil.copytree(entry, site / entry.name, copy_function=copy, ignore=left_out)
        else:
            shutil.copy2(entry, site / entry.name)
    if kit == "trytond":  # its configuration names folders by their whole paths
        configuration = site / "trytond.conf"
        configuration.write_text(configuration.read_text().replace(str(healthy), str(site)))


def sql_runner(kit: str, site: Path) -> Callable[[str], None]:
    """Return what carries out statements on the database of a host: SQLite's file, or its own server."""

    def on_file(statements: str) -> None:
        connection = sqlite3.connect(site / DATABASES[kit])
        with connection:
            connection.executescript(statements)
        connection.close()

    def on_server(statements: str) -> None:
        server = own_server(site)
        assert server is not None
        server.start(30)
        code = "$c = mysqli_connect('localhost', 'root', '', 'brindle_quay', 0, $argv[1]); $c->multi_query($argv[2]);"
        code += " do { $c->store_result(); } while ($c->more_results() && $c->next_result());"
        subprocess.run(["php", "-r", code, str(server.socket), statements], check=True)

    return on_file if kit in DATABASES else on_server


def judge(kit: str, fault: Fault, healthy: Path, from_files: bool = True) -> Verdict:
    """Apply one fault to a copy of the healthy host and check it, live and, where asked for, from its files alone."""
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder).resolve() / "site"
        move_host(kit, healthy, site)
        apply_fault(fault, site, sql_runner(kit, site))
        opened = open_host(HostChoice(str(site), kit, str(INTERPRETERS[kit]), fault.limit_seconds))
        static = check(opened, [], static=True) if from_files else None
        began = time.perf_counter()
        live = check(opened, [], static=False)
        seconds = time.perf_counter() - began
        if (server := own_server(site)) is not None:
            server.stop()
    named = list(unfolded(live, fault.module))
    first = named[0] if named else ("", "")
    cause = next((one.cause for one in live.findings if (one.code, one.file) == first), live.setups[0].failure)
    return Verdict(
        fault.code,
        static is not None and any(code == fault.code for code, _ in unfolded(static, fault.module)),
        any(code == fault.code for code, _ in named),
        first[0] == fault.code and first[1].rstrip("/") == fault.first,
        f"{first[0]} {first[1]} {cause}",
        tuple(sorted({code for code, _ in unfolded(live, None)} - {fault.code})),
        seconds,
    )


def unfolded(result: CheckResult, module: str | None) -> Iterator[tuple[str, str]]:
    """Yield code and file of the findings about a module (None: about all) that follow from no other, in order."""
    for finding in result.findings:
        if not finding.follows_from and module in (None, finding.module):
            yield finding.code, finding.file


def judge_all(kit: str, codes: list[str], healthy: Path, from_files: bool = True) -> Iterator[Verdict]:
    """Judge the faults of the named codes, or all, on both cores."""
    known = load_faults(KITS / kit / "faults", MODULE)
    faults = [fault for fault in known if not codes or fault.code in codes]
    with ProcessPoolExecutor(2) as pool:
        count = len(faults)
        yield from pool.map(judge, [kit] * count, faults, [healthy] * count, [from_files] * count)


def main(words: list[str]) -> int:
    """Print the tables; returns 1 when a fault was not named first, or a healthy module had a finding."""
    kits = [word for word in words if word in INTERPRETERS] or list(INTERPRETERS)
    codes = [word for word in words if word not in INTERPRETERS]
    return max(bench(kit, codes) for kit in kits)


def bench(kit: str, codes: list[str]) -> int:
    """Print the table of one kit."""
    with tempfile.TemporaryDirectory() as folder:
        healthy = build_healthy_host(kit, Path(folder).resolve())
        result = check(open_host(HostChoice(str(healthy), kit, str(INTERPRETERS[kit]))), [], static=False)
        alarms = [f"{finding.code} {finding.place}" for finding in result.findings]
        print(f"{kit}, healthy: {len(alarms)} findings {', '.join(alarms)}")
        verdicts = []
        print(f"{'fault':<34} files  live   first  seconds  others")
        for verdict in judge_all(kit, codes, healthy):
            verdicts.append(verdict)
            marks = ["yes" if mark else "no" for mark in (verdict.static, verdict.live, verdict.first)]
            note = "" if verdict.good else f"  got: {verdict.got}"
            cells = f"{marks[0]:<5}  {marks[1]:<5}  {marks[2]:<5}  {verdict.seconds:7.2f}"
            print(f"{verdict.code:<34} {cells}  {' '.join(verdict.others)}{note}", flush=True)
        good = sum(verdict.good for verdict in verdicts)
        static = sum(verdict.static for verdict in verdicts)
        print(f"{good} of {len(verdicts)} faults named first, {static} found from files alone")
    return 0 if good == len(verdicts) and not alarms else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
