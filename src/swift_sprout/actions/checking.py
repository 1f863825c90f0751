"""``check``: the ladder and the findings of modules."""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ..core.results import CheckResult, SetupCheck
    from .hosting import OpenHost


def check(opened: OpenHost, names: Sequence[str], static: bool) -> CheckResult:
    """Check the named modules, or all; ``static`` reads files only and runs nothing."""
    began = time.monotonic()
    if static:
        from .remembering import check_of_files

        setup = check_of_files(opened, names)
    else:
        setup = opened.host.check(names, live=True)
        hide_secrets(setup)
    data = opened.kit.data
    from ..core.results import CheckResult

    return CheckResult(data.id, data.title, str(opened.host.root), [setup], time.monotonic() - began)


def hide_secrets(setup: SetupCheck) -> None:
    """Hide the secrets that are known wherever the running host, or an error of it, told them."""
    from ..core.masking import known_values, masked

    values = known_values()
    setup.failure, setup.failure_remedy = masked(setup.failure, values), masked(setup.failure_remedy, values)
    setup.notes = [masked(note, values) for note in setup.notes]
    for module in setup.modules:
        steps = module.ladder.steps
        steps[:] = [step._replace(evidence=masked(step.evidence, values)) for step in steps]
    for findings in (setup.host_findings, *(module.findings for module in setup.modules)):
        findings[:] = [
            one._replace(
                cause=masked(one.cause, values),
                effect=masked(one.effect, values),
                mend=masked(one.mend, values),
                values=tuple((name, masked(value, values)) for name, value in one.values),
            )
            for one in findings
        ]


def why_not_well(result: CheckResult) -> str:
    """Return in one sentence why a check does not end with 0; empty for one that does."""
    for setup in result.setups:
        if setup.failure:
            return f"the host could not be checked: {setup.failure}"
    count = len(result.findings)
    return f"{count} finding{'' if count == 1 else 's'}" if exit_status(result) else ""


def exit_status(result: CheckResult) -> int:
    """Return 0 when all is well, 3 when the host could not be run, 1 when there are findings that fail."""
    from ..core.findings import Severity

    if any(setup.failure for setup in result.setups):
        return 3
    failing = any(finding.severity is not Severity.NOTE for finding in result.findings)
    healthy = all(module.healthy for setup in result.setups for module in setup.modules)
    return 0 if healthy and not failing else 1
