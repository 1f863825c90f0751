"""What findings of one module have to do with those of another: one cause is said once."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from .....core.findings import Finding, Severity, of_another
from .....core.ladder import RUNGS, Rung
from .....core.results import ModuleCheck

_NAMESPACE = re.compile(r"NoReverseMatch: '([\w.:-]+)' is not a registered namespace")
_MISSING = re.compile(r"(NoReverseMatch|LookupError|ImportError|ModuleNotFoundError|TemplateDoesNotExist)")
_UP_TO_ADDRESSES = RUNGS[: RUNGS.index(Rung.ROUTED) + 1]


def relate(modules: Sequence[ModuleCheck], namespaces: Iterable[tuple[str, str]], stopped: Iterable[str] = ()) -> None:
    """Mark findings that only follow from one of another module; their modules are not served all the same.

    namespaces -- the names that addresses are asked for under, each with the module that brings it
    stopped    -- modules that stop the host, and were left out: what others miss of them is missing for that
    """
    causes = {module.module: _first_cause(module.findings) for module in modules}
    owners = dict(namespaces)
    stopped_ones = list(stopped)
    met: dict[tuple[str, str, str, int], str] = {}
    for module in modules:
        for number, finding in enumerate(module.findings):
            if finding.follows_from or finding.rung is not Rung.SERVED:
                continue
            error = finding.value("error")
            asked = _NAMESPACE.search(error)
            owner = owners.get(asked[1].partition(":")[0], "") if asked else ""
            if not owner and _MISSING.search(error) and module.module not in stopped_ones:
                owner = next(iter(stopped_ones), "")
            cause = causes.get(owner) if owner != module.module else None
            same = met.setdefault((finding.code, error, finding.file, finding.line), module.module)
            if cause is not None:
                module.findings[number] = finding._replace(follows_from=of_another(cause.code, owner))
            elif error and same != module.module:
                module.findings[number] = finding._replace(follows_from=of_another(finding.code, same))
        module.findings.sort(key=lambda one: bool(one.follows_from))


def _first_cause(findings: Iterable[Finding]) -> Finding | None:
    """Return the first error of a module by which the host does not come to its addresses."""
    for finding in findings:
        if finding.severity is Severity.ERROR and finding.rung in _UP_TO_ADDRESSES and not finding.follows_from:
            return finding
    return None
