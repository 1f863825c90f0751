"""Findings that a project has accepted: what it says of them, and a check without them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from datetime import date

from .findings import Finding, Severity, of_another
from .ladder import Rung, State
from .project import Acceptance, ProjectSettings
from .results import Accepted, ModuleCheck, SetupCheck

KNOWN = "known from an earlier check"
OFF = "off on purpose"


#  what tells one finding from another, whatever line it stands at and however its sentences are worded
FindingKey = tuple[str, str, str, tuple[tuple[str, str], ...]]
#  the findings of an earlier check, each with how often it was there
KnownFindings = Mapping[FindingKey, int]
_LINE_NUMBER = re.compile(r"(?<=:)\d+\b|(?<=\bline )\d+")


def without_accepted(
    setup: SetupCheck,
    settings: ProjectSettings,
    known: KnownFindings,
    beside: Callable[[Finding], Acceptance | None],
    today: date,
    whole: bool,
) -> None:
    """Take what is accepted out of the findings of a set-up, keep it apart, and say which acceptances do not apply.

    beside -- returns what is accepted beside the line of a finding
    whole  -- whether all that could be found was looked for: else nothing is said of acceptances that were not met
    """
    holding = [one for one in settings.accept if not one.ended(today)]
    met: set[Acceptance] = set()
    left = dict(known)

    def reason_of(finding: Finding) -> str:
        for one in holding:
            if one.fits(finding):
                met.add(one)
                return one.reason
        local = beside(finding)
        if local is not None and local.fits(finding):
            if not local.ended(today):
                return local.reason
            setup.notes.append(f"what is accepted at {finding.place} has ended on {local.until}: {local.code}")
        key = known_as(finding.code, finding.module, finding.file, finding.values)
        if left.get(key, 0):
            left[key] -= 1
            return KNOWN
        return ""

    _of_host(setup, reason_of)
    for number, module in enumerate(setup.modules):
        if module.module in settings.off:
            if _is_off(module):
                setup.accepted += [Accepted(one, OFF) for one in module.findings]
                setup.notes.append(f"{module.module} is {OFF}")
                setup.modules[number] = _with(module, [], module.findings)
            else:
                setup.notes.append(f"{module.module} is said to be {OFF}, but it is on")
            continue
        kept, taken = _parted(module, reason_of)
        setup.accepted += taken
        if taken:
            setup.modules[number] = _with(module, kept, [one.finding for one in taken])
    for one in settings.accept:
        if one.ended(today):
            setup.notes.append(f"the acceptance of {one.spelled} has ended on {one.until}")
        elif whole and one not in met:
            setup.notes.append(f"the acceptance of {one.spelled} no longer applies: nothing of the kind is found")


def known_as(code: str, module: str, file: str, values: Iterable[tuple[str, str]]) -> FindingKey:
    """Return what tells a finding apart, from what it was made of; line numbers in its values count for nothing."""
    return code, module, file, tuple(sorted((name, _LINE_NUMBER.sub("", value)) for name, value in values))


def _of_host(setup: SetupCheck, reason_of: Callable[[Finding], str]) -> None:
    kept: list[Finding] = []
    for finding in setup.host_findings:
        reason = reason_of(finding)
        if reason:
            setup.accepted.append(Accepted(finding, reason))
        else:
            kept.append(finding)
    setup.host_findings[:] = kept


def _parted(module: ModuleCheck, reason_of: Callable[[Finding], str]) -> tuple[list[Finding], list[Accepted]]:
    """Part the findings of a module; what only follows from an accepted one is accepted with it."""
    taken = {finding: reason for finding in module.findings if (reason := reason_of(finding))}
    sources = {name: reason for one, reason in taken.items() for name in (one.code, of_another(one.code, one.module))}
    there = {finding.code for finding in module.findings if finding not in taken}
    for finding in module.findings:
        if finding.follows_from in sources and finding.follows_from not in there:
            taken.setdefault(finding, sources[finding.follows_from])
    kept = [finding for finding in module.findings if finding not in taken]
    return kept, [Accepted(finding, taken[finding]) for finding in module.findings if finding in taken]


def _is_off(module: ModuleCheck) -> bool:
    stop = module.ladder.stops_at
    return stop is not None and stop.rung in (Rung.REGISTERED, Rung.ENABLED)


def _with(module: ModuleCheck, kept: list[Finding], taken: list[Finding]) -> ModuleCheck:
    """Return a module's check with these findings; a rung that only what was taken had failed does not fail."""
    failing = {finding.rung for finding in kept if finding.severity is Severity.ERROR}
    causes = {one.rung: one.cause for one in reversed(taken) if one.severity is Severity.ERROR}
    steps = [
        step._replace(state=State.NOT_APPLICABLE, evidence=f"accepted: {causes[step.rung]}")
        if step.state is State.FAIL and step.rung in causes and step.rung not in failing
        else step
        for step in module.ladder.steps
    ]
    return module._replace(ladder=module.ladder._replace(steps=steps), findings=kept)
