"""Every fault on a fresh copy of a healthy host, and what the check says of it."""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path
from typing import NamedTuple

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.core.results import CheckResult
from swift_sprout.hosts.shared.faults import Fault, apply_fault, load_faults

from .hosts import HAND_MADE, copy_host, trial
from .places import RUNTIMES
from .recipes import KIT_FOLDERS


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


def faults_of(kit: str) -> list[Fault]:
    """Return the faults that a kit knows, each for the healthy module that was written by hand."""
    return load_faults(KIT_FOLDERS / kit / "faults", HAND_MADE)


def judge(kit: str, fault: Fault, healthy: Path, folder: Path, from_files: bool = True) -> Verdict:
    """Apply one fault to a copy of the healthy host and check it, live and, where asked for, from its files alone."""
    site = fresh_host(kit, healthy, folder)
    apply_fault(fault, site, partial(trial(kit).run_sql, site))
    opened = open_host(HostChoice(str(site), kit, str(RUNTIMES[kit]), fault.limit_seconds))
    static = check(opened, [], static=True) if from_files else None
    began = time.perf_counter()
    live = check(opened, [], static=False)
    seconds = time.perf_counter() - began
    trial(kit).stop(site)
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
    """Judge the faults of the named codes, or all, on both cores.

    from_files -- ask of each as well whether its files alone show it, on a host of its own
    """
    faults = [fault for fault in faults_of(kit) if not codes or fault.code in codes]
    batches = [[fault] for fault in faults] if from_files else batches_of(faults)
    with tempfile.TemporaryDirectory() as folder, ProcessPoolExecutor(2) as pool:
        place = Path(folder).resolve()
        judging = partial(judge_together, kit, healthy=healthy, folder=place, from_files=from_files)
        for verdicts in pool.map(judging, batches):
            yield from verdicts


def batches_of(faults: Sequence[Fault]) -> list[list[Fault]]:
    """Part faults into those that share a host."""
    batches: dict[str, list[Fault]] = {}
    for fault in faults:
        batches.setdefault(str(fault.host) if fault.host else fault.code, []).append(fault)
    return list(batches.values())


def judge_together(
    kit: str, faults: Sequence[Fault], healthy: Path, folder: Path, from_files: bool = True
) -> list[Verdict]:
    """Judge faults that share a host: where the check names each at its place and nothing else, each is named first.

    Where it says anything else, each is judged on a host of its own.
    """
    if len(faults) > 1:
        site = fresh_host(kit, healthy, folder)
        for fault in faults:
            apply_fault(fault, site)
        began = time.perf_counter()
        live = check(open_host(HostChoice(str(site), kit, str(RUNTIMES[kit]))), [], static=False)
        seconds = (time.perf_counter() - began) / len(faults)
        trial(kit).stop(site)
        named = {(code, file.rstrip("/")) for code, file in unfolded(live, None)}
        if named == {(fault.code, fault.first) for fault in faults}:
            return [Verdict(fault.code, False, True, True, "", (), seconds) for fault in faults]
    return [judge(kit, fault, healthy, folder, from_files) for fault in faults]


def fresh_host(kit: str, healthy: Path, folder: Path) -> Path:
    """Copy the healthy host to where this process tries things.

    That is the same place each time: what a host compiles of its own files is kept by their place, and need not be
    compiled again.
    """
    site = folder / str(os.getpid()) / "site"
    shutil.rmtree(site, ignore_errors=True)
    site.parent.mkdir(exist_ok=True)
    copy_host(kit, healthy, site)
    return site
