"""The fault bench: every fault on a fresh copy of a healthy site, and what the check says of it.

``python -m benchmarks.faults [KIT …] [CODE …]`` prints fault x (found from files / found live / named first / seconds).
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from swift_sprout.actions.checking import check
from swift_sprout.actions.hosting import HostChoice, open_host
from trials.hosts import built_healthy, copy_host
from trials.judging import judge_all
from trials.places import RUNTIMES


def main(words: list[str]) -> int:
    """Print the tables; returns 1 when a fault was not named first, or a healthy module had a finding."""
    kits = [word for word in words if word in RUNTIMES] or list(RUNTIMES)
    codes = [word for word in words if word not in RUNTIMES]
    return max(bench(kit, codes) for kit in kits)


def bench(kit: str, codes: list[str]) -> int:
    """Print the table of one kit."""
    with tempfile.TemporaryDirectory() as folder:
        healthy = Path(folder).resolve()
        copy_host(kit, built_healthy(kit), healthy)
        result = check(open_host(HostChoice(str(healthy), kit, str(RUNTIMES[kit]))), [], static=False)
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
