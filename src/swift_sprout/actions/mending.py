"""``check --mend``: apply the mends that are safe, ask the host after each, and take back what did not help."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Iterable, Sequence
from copy import copy
from typing import NamedTuple

from ..core.changes import ChangeSet
from ..core.errors import Refused
from ..core.findings import Finding, Severity
from ..core.hostfacts import StepRun
from ..core.ladder import State
from ..core.results import CheckResult, SetupCheck
from ..hosts.contract.exchange import Mend
from .checking import check
from .hosting import OpenHost

TITLE = "check --mend"
MOST_MENDS = 100


class Mended(NamedTuple):
    """What was mended: codes, edits, refresh steps; ``left`` says what was not, ``after`` is the check."""

    codes: list[str]
    changes: ChangeSet
    steps: list[StepRun]
    left: list[str]
    before: CheckResult
    after: CheckResult | None


class _Mending:
    """Mends findings one after the other, each proven by a check of all modules: a mend may harm another one."""

    def __init__(self, opened: OpenHost, names: Sequence[str], static: bool) -> None:
        self.opened, self.static = opened, static
        self.named = {opened.host.find(name) for name in names}
        self.result = check(opened, (), static)
        self.codes: list[str] = []
        self.changes = ChangeSet(TITLE)
        self.steps: list[StepRun] = []
        self.left: list[str] = []
        self._tried: set[object] = set()
        self._run = os.urandom(8).hex()

    def candidates(self) -> Iterable[Finding]:
        """Yield the findings that may be mended by themselves and were not tried; those that are left are said."""
        rules = self.opened.kit.data.rules
        for finding in self.result.findings:
            rule = rules[finding.code]
            if not rule.mendable or finding.follows_from or (self.named and finding.module not in self.named):
                continue
            if _key(finding) in self._tried:
                continue
            self._tried.add(_key(finding))
            if rule.mended_when_named and finding.module not in self.named:
                self.left.append(
                    f"{finding.code}: {finding.module} may be off on purpose; "
                    f"swift-sprout check {finding.module} --mend switches it on"
                )
                continue
            yield finding

    def preview(self) -> None:
        """Work out what a first round would change; nothing is written."""
        for finding in self.candidates():
            found = self._mend_of(finding)
            if found is not None:
                self._count(finding, found.changes)

    def run(self) -> None:
        """Mend until nothing is left that can be."""
        for _ in range(MOST_MENDS):
            settling: list[Finding] = []
            for finding in self.candidates():
                found = self._mend_of(finding)
                if found is None:
                    continue
                if found.changes or found.enable:
                    self._edit(finding, found.changes, found.settle, found.enable)
                    break  # what follows may have moved: look again
                if found.settle:
                    settling.append(finding)
            else:
                if not settling:
                    return
            if settling:
                self._settle(settling)

    def _mend_of(self, finding: Finding) -> Mend | None:
        """Return the mend of a finding; None, and a sentence on why, where it is not safe."""
        try:
            return self.opened.host.mend(finding)
        except Refused as error:
            self.left.append(f"{finding.code}: {error.sentence}")
            return None

    def _edit(self, finding: Finding, changes: ChangeSet, settle: bool, enable: bool) -> None:
        """Apply one mend that changes files or switches a module on; it is taken back where it made nothing better."""
        opened = self.opened
        number = opened.journal.apply(changes)
        steps: list[StepRun] = []
        try:
            if enable:
                steps += opened.host.set_enabled(finding.module, True)
                opened.journal.turned(number, finding.module, True)
            if settle:
                steps += opened.host.settle([finding.module])
            after = check(opened, (), self.static)
            worse = what_is_worse(self.result, after, finding)
        except BaseException:
            self._take_back(number, finding, enable)
            raise
        opened.journal.of_run(number, self._run)
        self.steps += steps
        if worse:
            self._take_back(number, finding, enable)
            self.left.append(f"{finding.code}: mending {finding.place} was taken back, for then {worse}")
            return
        self.result = after
        self._count(finding, changes)

    def _take_back(self, number: str, finding: Finding, enabled: bool) -> None:
        if enabled:
            self.opened.host.set_enabled(finding.module, False)
        self.opened.journal.undo(number)

    def _settle(self, findings: list[Finding]) -> None:
        """Run the host's own steps for what only needs these, all modules in one go.

        The journal keeps that they ran: nothing takes them back, and ``undo`` must not reach past them.
        """
        for module in dict.fromkeys(finding.module for finding in findings):
            self.steps += self.opened.host.settle([module])
            number = self.opened.journal.apply(ChangeSet(f"{TITLE}: settle {module}"))
            self.opened.journal.lasting(number, f"the host's own steps for {module} ran")
        after = check(self.opened, (), self.static)
        for finding in findings:
            if _count_of(after, finding) < _count_of(self.result, finding):
                self.codes.append(finding.code)
            else:
                self.left.append(f"{finding.code}: the host's own steps ran, and it is still so")
        self.result = after

    def _count(self, finding: Finding, changes: ChangeSet) -> None:
        self.codes.append(finding.code)
        for change in changes.changes:
            _join(self.changes, change.path, change.before, change.after)


def mend(opened: OpenHost, names: Sequence[str], static: bool, preview: bool) -> Mended:
    """Check, mend what is safe, and check again; further findings that come to light are mended too.

    With ``preview`` nothing is written and one round is shown.
    """
    mending = _Mending(opened, names, static)
    first = mending.result
    if preview:
        mending.preview()
    else:
        with opened.writing(TITLE):
            mending.run()
    after = None if preview else _of_modules(mending.result, mending.named)
    return Mended(mending.codes, mending.changes, mending.steps, mending.left, _of_modules(first, mending.named), after)


def what_is_worse(before: CheckResult, after: CheckResult, mended: Finding) -> str:
    """Return what became worse by a mend, or that it did not help, as half a sentence; empty for neither."""
    for was, now in zip(before.setups, after.setups, strict=True):
        if now.failure and not was.failure:
            return f"the host cannot be checked: {now.failure}"
        known = {_key(finding) for finding in _errors(was)}
        new = [finding for finding in _errors(now) if _key(finding) not in known and finding.module != mended.module]
        if new:
            return f"{new[0].module or 'the host'} has {new[0].code}: {new[0].cause}"
        worse = _less_served(was, now)
        if worse:
            return worse
    if _count_of(after, mended) >= _count_of(before, mended):
        return "it is still so"
    return ""


def _less_served(was: SetupCheck, now: SetupCheck) -> str:
    """Return which module has a rung no more that it had, or fewer pages that answer."""
    modules = {module.module: module for module in now.modules}
    for before in was.modules:
        after = modules.get(before.module)
        if after is None:
            return f"{before.module} is not found any more"
        states = {step.rung: step.state for step in after.ladder.steps}
        for step in before.ladder.steps:
            if step.state is State.PASS and states.get(step.rung) in (State.FAIL, State.BLOCKED):
                return f"{before.module} is not {step.rung} any more"
        gone = [address for address in before.addresses if address not in after.addresses]
        if len(after.addresses) < len(before.addresses) and gone:
            return f"{gone[0]} of {before.module} does not answer any more"
    return ""


def _errors(setup: SetupCheck) -> list[Finding]:
    findings = [*setup.host_findings, *(one for module in setup.modules for one in module.findings)]
    return [one for one in findings if one.severity is Severity.ERROR and not one.follows_from]


def _key(finding: Finding) -> object:
    """Return what makes a finding the same after lines have moved."""
    return finding.code, finding.module, finding.file, finding.values


def _count_of(result: CheckResult, finding: Finding) -> int:
    return Counter(_key(one) for one in result.findings)[_key(finding)]


def _of_modules(result: CheckResult, names: set[str]) -> CheckResult:
    """Return a check with these modules only; with all of them when none is named."""
    if not names:
        return result
    setups = []
    for setup in result.setups:
        part = copy(setup)
        part.modules = [module for module in setup.modules if module.module in names]
        setups.append(part)
    return result._replace(setups=setups)


def _join(changes: ChangeSet, path: str, before: bytes | None, after: bytes | None) -> None:
    """Add a change to the summary; where it does not follow the one before, the later one is shown."""
    try:
        changes.add(path, before, after)
    except ValueError:
        changes.drop(path)
        changes.add(path, before, after)
