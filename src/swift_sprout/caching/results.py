"""The result of a check as plain data that is small to keep, and back."""

from __future__ import annotations

from typing import Any

from ..core.findings import Finding, RuleBook, Severity
from ..core.ladder import RUNGS, Ladder, State, Step
from ..core.results import ModuleCheck, SetupCheck

_STATES = tuple(State)
_NUMBERS = {state: number for number, state in enumerate(_STATES)}


def setup_data(setup: SetupCheck) -> dict[str, Any]:
    """Return a check of one set-up as plain data."""
    return {
        "setup": setup.setup,
        "live": setup.live,
        "version": setup.version,
        "failure": [setup.failure, setup.failure_remedy],
        "notes": setup.notes,
        "host_findings": [finding_data(one) for one in setup.host_findings],
        "modules": [
            [
                one.module,
                one.title,
                [[RUNGS.index(step.rung), _NUMBERS[step.state], step.evidence] for step in one.ladder.steps],
                [finding_data(finding) for finding in one.findings],
                one.addresses,
                one.times,
            ]
            for one in setup.modules
        ],
    }


def setup_from(data: dict[str, Any], rules: RuleBook) -> SetupCheck:
    """Return the check that was kept as plain data; ``rules`` are those of the kit that made it."""
    setup = SetupCheck(data["setup"], data["live"], data["version"])
    setup.failure, setup.failure_remedy = data["failure"]
    setup.notes = data["notes"]
    setup.host_findings = [finding_from(one, rules) for one in data["host_findings"]]
    for module, title, steps, findings, addresses, times in data["modules"]:
        ladder = Ladder([Step(RUNGS[rung], _STATES[state], evidence) for rung, state, evidence in steps])
        found = [finding_from(one, rules) for one in findings]
        setup.modules.append(ModuleCheck(module, title, ladder, found, addresses, [tuple(one) for one in times]))
    return setup


def finding_data(finding: Finding) -> list[Any]:
    """Return a finding as plain data."""
    return [
        finding.code,
        finding.module,
        finding.file,
        finding.line,
        finding.cause,
        finding.effect,
        finding.mend,
        finding.follows_from,
        str(finding.severity),
        finding.values,
    ]


def finding_from(data: list[Any], rules: RuleBook) -> Finding:
    """Return the finding that was kept as plain data."""
    code, module, file, line, cause, effect, mend, follows_from, severity, values = data
    rule = rules[code]
    return Finding(
        code,
        rule.rung,
        Severity(severity),
        module,
        file,
        line,
        cause,
        effect,
        mend,
        rule.mendable,
        rule.follows,
        follows_from,
        tuple((name, value) for name, value in values),
        rule.of_one_line,
    )
