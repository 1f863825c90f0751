"""Putting what was seen of a module and what is wrong with it together: the same for every kind of host."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

from ...caching.results import finding_data, finding_from
from ...core.findings import Finding, RuleBook, Severity, first_cause_first
from ...core.ladder import Rung, State, build_ladder
from ...core.results import ModuleCheck

if TYPE_CHECKING:
    from ...caching.rests_on import RestsOn
    from ..contract.kit import Remember

Ahead = dict[str, list[Finding]]


class Kept(NamedTuple):
    """How findings of files alone are kept from one check to the next.

    remember -- keeps an answer; rests_on -- returns what it rests on, None where that cannot be told
    """

    remember: Remember
    rests_on: Callable[[], RestsOn | None]


def findings_ahead(
    kept_by: Kept | None, modules: Sequence[str], rules: RuleBook, work: Callable[[], Ahead], how: str = ""
) -> Ahead:
    """Return what the files alone tell of modules: what it was the last time where no file changed since.

    work -- works it out from the files; how -- in which way, where there are several
    """
    rests_on = kept_by.rests_on() if kept_by is not None else None
    if kept_by is None or rests_on is None:
        return work()
    fresh: Ahead | None = None

    def told() -> Any:
        nonlocal fresh
        fresh = work()
        return {name: [finding_data(one) for one in found] for name, found in fresh.items()}

    kept = kept_by.remember(f"files {how} of {' '.join(modules)}", rests_on, told)
    if fresh is not None:
        return fresh
    try:
        return {name: [finding_from(one, rules) for one in kept[name]] for name in modules}
    except (KeyError, TypeError, ValueError, IndexError, AttributeError):  # somebody else has written there
        return work()


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
