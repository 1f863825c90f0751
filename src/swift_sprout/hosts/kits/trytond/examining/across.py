"""What findings of one module have to do with those of another: one cause is said once."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from .....core.findings import Finding, Severity, of_another
from .....core.ladder import RUNGS, Rung

if TYPE_CHECKING:
    from .....core.results import ModuleCheck
    from ..view import HostView

_MISSED = re.compile(r"KeyError: ['\"]([\w.|-]+)['\"]")
_EARLY = RUNGS[: RUNGS.index(Rung.INSTALLED)]


def relate(checks: Sequence[ModuleCheck], view: HostView, stopped: Iterable[str]) -> None:
    """Mark what modules miss of another one that was left out, or that does not bring what its files hold.

    stopped -- the modules that stop the host, and were left out
    """
    causes: dict[str, Finding] = {}
    for check in checks:
        for finding in check.findings:
            early = finding.severity is Severity.ERROR and finding.rung in _EARLY
            if early and not finding.follows_from and check.module not in causes:
                causes[check.module] = finding
    first_stopped = next((name for name in stopped if name in causes), "")
    for check in checks if causes else ():
        for number, finding in enumerate(check.findings):
            missed = _MISSED.search(finding.value("reason")) if not finding.follows_from else None
            owner = (_owner_of(view, missed[1], causes) or first_stopped) if missed is not None else ""
            if owner and owner != check.module:
                check.findings[number] = finding._replace(follows_from=of_another(causes[owner].code, owner))
        check.findings.sort(key=lambda one: bool(one.follows_from))


def _owner_of(view: HostView, name: str, causes: dict[str, Finding]) -> str:
    """Return the module at fault whose files hold the model of a name, or whose finding names it; empty for none."""
    for module in view.modules:
        if module.name in causes:
            spelled = (f"'{name}'", f'"{name}"')
            held = any(one in file.path.read_text("utf-8", "replace") for file in module.code_files for one in spelled)
            if held or name in causes[module.name].cause:
                return module.name
    return ""
