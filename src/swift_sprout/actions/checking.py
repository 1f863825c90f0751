"""``check``: the ladder and the findings of modules."""

from __future__ import annotations

import time
from collections.abc import Sequence
from datetime import date
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.accepting import without_accepted
from ..disk.projectsettings import accepted_beside, inside, known_findings

if TYPE_CHECKING:
    from ..core.results import CheckResult, SetupCheck
    from ..hosts.contract.kit import Kit
    from .hosting import OpenHost


def check(opened: OpenHost, names: Sequence[str], static: bool, known: Path | None = None) -> CheckResult:
    """Check the named modules, or all; ``static`` reads files only and runs nothing.

    known -- an earlier check, whose findings are kept apart; None for the one that the project names, if any
    """
    began = time.monotonic()
    if static:
        setup = check_of_files(opened, names)
    else:
        setup = opened.host.check(names, live=True)
        hide_secrets(setup)
    take_accepted(opened, setup, known, whole=not names and not static)
    if not names:
        leave_out(opened, setup)
    data = opened.kit.data
    from ..core.results import CheckResult

    return CheckResult(data.id, data.title, str(opened.host.root), [setup], time.monotonic() - began, opened.below)


def leave_out(opened: OpenHost, setup: SetupCheck) -> None:
    """Leave modules out of a check that lie in folders which the project leaves out, and say so."""
    out = opened.left_out()
    left = [module.module for module in setup.modules if module.module in out]
    if left:
        setup.modules = [module for module in setup.modules if module.module not in out]
        setup.notes.append(f"left out, as the project says: {', '.join(left)}")


def take_accepted(opened: OpenHost, setup: SetupCheck, known: Path | None, whole: bool) -> None:
    """Take out of a check what the project accepts; raises Refused where the earlier check cannot be read."""
    root = opened.host.root
    settings, folder = opened.project.settings, Path(opened.project.folder)
    place = known or (inside(folder, settings.known) if settings.known else None)
    earlier = known_findings(place) if place is not None else {}
    beside = partial(accepted_beside, root)
    if setup.failure:
        whole = False
    without_accepted(setup, settings, earlier, beside, date.today(), whole)


def check_of_files(opened: OpenHost, names: Sequence[str]) -> SetupCheck:
    """Check modules from their files alone, or return what that was the last time where it still holds."""
    from ..caching.remembered import remembered
    from ..caching.results import setup_data, setup_from

    rests_on = opened.host.rests_on()
    if rests_on is None:
        return opened.host.check(names, live=False)
    choice = opened.choice
    question = repr((opened.kit.data.id, str(opened.host.root), choice.runtime, list(names)))
    found: SetupCheck | None = None

    def work() -> Any:
        nonlocal found
        found = opened.host.check(names, live=False)
        return setup_data(found)

    kept = remembered(question, rests_on, judging_folders(opened.kit), work)
    if found is not None:
        return found
    try:
        return setup_from(kept, opened.kit.data.rules)
    except (KeyError, TypeError, ValueError, IndexError, AttributeError):  # somebody else has written there
        return opened.host.check(names, live=False)


def judging_folders(kit: Kit) -> list[Path]:
    """Return the folders of the code and data by which modules of a kit are judged."""
    own = Path(__file__).parent.parent
    common = ("core", "disk", "edits", "running", "caching", "hosts/contract", "hosts/shared", "hosts/python")
    return [*(own / name for name in common), *kit.data.folders]


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
    from ..core.findings import counted

    for setup in result.setups:
        if setup.failure:
            return f"the host could not be checked: {setup.failure}"
    return counted(result.findings) if exit_status(result) else ""


def exit_status(result: CheckResult) -> int:
    """Return 0 when all is well, 3 when the host could not be run, 1 when there are findings that fail."""
    from ..core.findings import Severity

    if any(setup.failure for setup in result.setups):
        return 3
    failing = any(finding.severity is not Severity.NOTE for finding in result.findings)
    healthy = all(module.healthy for setup in result.setups for module in setup.modules)
    return 0 if healthy and not failing else 1
