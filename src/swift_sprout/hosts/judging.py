"""Putting what was seen of a module and what is wrong with it together: the same for every kind of host."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from ..core.findings import Finding, Severity, first_cause_first
from ..core.ladder import Rung, State, build_ladder
from ..core.results import ModuleCheck


def judged(
    module: str,
    title: str,
    findings: Iterable[Finding],
    seen: Mapping[Rung, tuple[State, str]],
    failure: str = "",
    asked: Sequence[tuple[str, float]] = (),
) -> ModuleCheck:
    """Return the check of one module.

    seen    -- what was seen of each rung, apart from any finding; a rung left out was not asked
    failure -- why the host could not be run, empty when it could or was not asked
    asked   -- the pages that answered, each with the seconds until it did
    """
    ordered = first_cause_first(findings)
    failed: dict[Rung, str] = {}
    for finding in sorted(ordered, key=lambda each: bool(each.follows_from)):
        if finding.severity is Severity.ERROR:
            failed.setdefault(finding.rung, finding.cause)
    evidence = dict(seen)
    if failure:
        for rung in Rung:
            evidence.setdefault(rung, (State.BLOCKED, "the host could not be run"))
    addresses = list(dict.fromkeys(path for path, _ in asked))
    return ModuleCheck(module, title, build_ladder(evidence, failed), ordered, addresses, list(asked))
