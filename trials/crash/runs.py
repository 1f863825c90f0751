"""Running one command, ended at one operation after the other, and judging what it left."""

from __future__ import annotations

import os
import shutil
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from swift_sprout.disk.journal import Journal

from ..hosts import copy_host, runtime_options, trial
from ..places import RUNTIMES
from .cases import Case, prepare, state_of, tree_of
from .interrupting import ENDINGS, FAILURES, KILLED, Interruption
from .rows import lost_rows

MOST_POINTS = 2000
__all__ = ["ENDINGS", "Bench", "Result"]


@dataclass
class Result:
    """What became of a command that was ended at many points in one way."""

    kit: str
    command: str
    ending: str
    counts: Counter[str] = field(default_factory=Counter)
    bad: list[str] = field(default_factory=list)

    def line(self) -> str:
        """Return the result as a line of the table, what was bad below it."""
        names = ("points", "before", "after", "torn", "no boot", "tracebacks")
        cells = "  ".join(f"{self.counts[name]:>{max(len(name), 5)}}" for name in names)
        return "\n".join([f"{self.kit:<10} {self.command:<8} {self.ending:<14} {cells}", *self.bad])


class Bench:
    """One command on one host: the trees before and after it, and what is judged by them."""

    def __init__(self, kit: str, case: Case, demo: Path, folder: Path) -> None:
        self.kit, self.case, self.folder = kit, case, folder
        self.ready, self.site, self.errors = folder / "ready", folder / "site", folder / "errors"
        prepare(kit, case, demo, self.ready)
        self.words = [*case.words, "--host", str(self.site), "-q"]
        if case.name in ("enable", "remove", "drop"):
            self.words += map(str, runtime_options(kit))
        self.boot_verdicts: dict[str, str] = {}
        self._renew()
        self.before = tree_of(self.kit, self.site)
        assert self._run(0, KILLED)[0] == 0, self.errors.read_text()
        self.after = tree_of(self.kit, self.site)
        #  on some hosts nothing but the database tells that a module is on
        assert self.before != self.after or case.name == "enable"
        for state in (self.ready, self.site):
            assert not self._boots(state), self._boots(state)

    def run(self, ending: str, every: int) -> Result:
        """End the command in one way at each point, until it comes to its end by itself."""
        result = Result(self.kit, self.case.name, ending)
        self._renew()
        for at in range(1, MOST_POINTS, every):
            status, seen = self._run(at, ending)
            if seen < at and status is not None:
                break
            result.counts["points"] += 1
            self._judge(result, at, ending, status == 0)
        return result

    def _judge(self, result: Result, at: int, ending: str, ended_well: bool) -> None:
        """Run the next command, and look at what is there then."""
        told = self.errors.read_text("utf-8", "replace")
        if "Traceback" in told or "own-fault" in told:
            self._bad(result, "tracebacks", at, told)
        if self._sprout("survey", "--static", "--host", str(self.site), "-q") not in (0, 1):
            self._bad(result, "torn", at, "the next command fails: " + self.errors.read_text("utf-8", "replace"))
        self._wait_for_others()
        if self.case.name == "drop":
            lost = lost_rows(self.kit, self.site, told + self.errors.read_text("utf-8", "replace"))
            if lost and not ended_well:
                self._bad(result, "torn", at, lost)
        if "half-written" in self.errors.read_text("utf-8", "replace"):
            if self._sprout("undo", "--host", str(self.site), "-q"):
                self._bad(result, "torn", at, "it is not taken back: " + self.errors.read_text("utf-8", "replace"))
        now = tree_of(self.kit, self.site)
        if now not in (self.before, self.after):
            paths = {*now, *self.before}
            differ = [path for path in sorted(paths) if now.get(path) != self.before.get(path)]
            self._bad(result, "torn", at, ", ".join(differ))
        else:
            result.counts["before" if now == self.before else "after"] += 1
        problem = self._boots(self.site)
        if problem:
            self._bad(result, "no boot", at, problem)
        if now == self.after and ending not in FAILURES and self.case.name in ("new", "add", "refresh"):
            if self._sprout("undo", "--host", str(self.site), "-q") or tree_of(self.kit, self.site) != self.before:
                self._bad(result, "torn", at, "undo does not bring back the tree before it")
        if now != self.before or self.case.needs_data:
            self._renew()

    def _bad(self, result: Result, kind: str, at: int, text: str) -> None:
        result.counts[kind] += 1
        result.bad.append(f"    {kind} at {at}: {' '.join(text.split())[:500]}")

    def _boots(self, site: Path) -> str:
        state = state_of(self.kit, site)
        if state not in self.boot_verdicts:
            self.boot_verdicts[state] = trial(self.kit).boots(site, RUNTIMES[self.kit])
        return self.boot_verdicts[state]

    def _renew(self) -> None:
        """Put a fresh copy of the host in the place of the one that was worked on, with the state it had."""
        if self.site.exists():
            if self.case.needs_data:
                trial(self.kit).stop(self.site)
            shutil.rmtree(self.site)
        copy_host(self.kit, self.ready, self.site, self.case.needs_data)
        shutil.rmtree(Journal(self.site).state, ignore_errors=True)
        if Journal(self.ready).state.exists():
            shutil.copytree(Journal(self.ready).state, Journal(self.site).state)

    def _wait_for_others(self) -> None:
        """Wait for what the killed program had started and what goes on without it, but for a database server."""
        mark = str(self.site).encode()
        for _ in range(200):
            if not any(mark in words and b"mariadbd" not in words for words in _running()):
                return
            time.sleep(0.05)

    def _sprout(self, *words: str) -> int:
        return self._run(0, KILLED, words)[0] or 0

    def _run(self, at: int, ending: str, words: tuple[str, ...] = ()) -> tuple[int | None, int]:
        """Run the program in a copy of this process; returns its status (None: killed), and the operations seen."""
        reading, writing = os.pipe()
        child = os.fork()
        if child == 0:
            _as_program([*words] or self.words, at, ending, writing, self.errors)
        os.close(writing)
        _, told = os.waitpid(child, 0)
        with os.fdopen(reading) as pipe:
            seen = pipe.read()
        return (None if os.WIFSIGNALED(told) else os.waitstatus_to_exitcode(told)), int(seen or at)


def _as_program(words: list[str], at: int, ending: str, writing: int, errors: Path) -> None:
    """Do in a copy of this process what the program does from its start to its end."""
    status = 70
    try:
        os.setsid()
        os.dup2(os.open(errors, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o644), 2)
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        from swift_sprout.cli.ending import heed_signals
        from swift_sprout.cli.main import main
        from swift_sprout.running.process import end_all

        interruption = Interruption(at, ending)
        heed_signals()
        if at or writing:
            interruption.begin()
        status = main(words)
        interruption.at = 0
        end_all()
        os.write(writing, str(interruption.seen).encode())
    except BaseException:
        import traceback

        traceback.print_exc()
    finally:
        os._exit(status)


def _running() -> list[bytes]:
    """Return the command lines of all processes but this one."""
    found = []
    for name in os.listdir("/proc"):
        if name.isdigit() and int(name) != os.getpid():
            try:
                with open(f"/proc/{name}/cmdline", "rb") as handle:
                    found.append(handle.read())
            except OSError:
                continue
    return found
