"""What findings of one module have to do with those of another, and of the host: one cause is said once."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from .....core.findings import Finding, Severity, of_another
from .....core.ladder import RUNGS, Rung
from .....core.results import ModuleCheck

if TYPE_CHECKING:
    from ..view import HostView

_NAMESPACE = re.compile(r"NoReverseMatch: '([\w.:-]+)' is not a registered namespace")
_MISSING = re.compile(r"(NoReverseMatch|LookupError|ImportError|ModuleNotFoundError|TemplateDoesNotExist)")
_UP_TO_ADDRESSES = RUNGS[: RUNGS.index(Rung.ROUTED) + 1]
_WORD = re.compile(r"[A-Za-z_][\w.]{3,}")


def relate(modules: Sequence[ModuleCheck], view: HostView, stopped: Iterable[str] = ()) -> None:
    """Mark findings that only follow from one of another module; their modules are not served all the same.

    stopped -- modules that stop the host, and were left out: what others miss of them is missing for that
    """
    stopped_ones = [name for name in stopped if name in {module.module for module in modules}]
    owners = {_namespace(view, module.name): module.name for module in view.modules}
    labels = {module.label: module.name for module in view.modules}
    checks = {module.module: module for module in modules}
    met: dict[tuple[str, str, str, int], str] = {}
    for module in modules:
        for number, finding in enumerate(module.findings):
            if finding.follows_from:
                continue
            named = next((value for _, value in finding.values if value in stopped_ones), "")
            if named and named != module.module and (cause := _first_cause(checks[named].findings)) is not None:
                module.findings[number] = finding._replace(follows_from=of_another(cause.code, named))
                continue
            if finding.rung not in (Rung.SERVED, Rung.PERMITTED):
                continue
            error = finding.value("error") or finding.value("login")
            match = _NAMESPACE.search(error)
            asked = match[1].partition(":")[0] if match else ""
            owner = owners.get(asked) or labels.get(asked, "")
            if owner in checks and asked not in owners:
                _name_otherwise(checks[owner], view, asked)
            if not owner and _MISSING.search(error) and module.module not in stopped_ones:
                owner = next(iter(stopped_ones), "")
            cause = _first_cause(checks[owner].findings) if owner in checks and owner != module.module else None
            same = met.setdefault((finding.code, error, finding.file, finding.line), module.module)
            if cause is not None:
                module.findings[number] = finding._replace(follows_from=of_another(cause.code, owner))
            elif owner == module.module and any(one.code == "routed.namespace-other" for one in module.findings):
                module.findings[number] = finding._replace(follows_from="routed.namespace-other")
            elif error and same != module.module:
                module.findings[number] = finding._replace(follows_from=of_another(finding.code, same))
        module.findings.sort(key=lambda one: bool(one.follows_from))


def explained(
    host_findings: Sequence[Finding], modules: Sequence[ModuleCheck], stopped: Iterable[str]
) -> list[Finding]:
    """Return findings about the host's start; one follows from that of a module which says more of the same.

    That is the first cause of a module that had to be left out, else an error whose sentence shares a name with it.
    """
    left_out = set(stopped)
    found = []
    for finding in host_findings:
        said = finding.value("error") or finding.value("text")
        words = set(_WORD.findall(said)) - {"module", "named", "apps", "django", "model", "field", "relation"}
        for module in modules if said else ():
            cause = _first_cause(module.findings, RUNGS)
            if cause is not None and (module.module in left_out or words & set(_WORD.findall(cause.cause))):
                finding = finding._replace(follows_from=of_another(cause.code, module.module))
                break
        found.append(finding)
    return found


def _namespace(view: HostView, name: str) -> str:
    """Return the name under which a module's addresses are asked for: what its url configuration says."""
    module = view.module(name)
    conf = view.addresses.file(module.urls) if module is not None and module.urls else None
    return (conf.app_name if conf is not None else "") or (module.label if module is not None else name)


def _name_otherwise(check: ModuleCheck, view: HostView, asked: str) -> None:
    """Add to a module that its url configuration says another name than the one that others ask for."""
    module = view.module(check.module)
    conf = view.addresses.file(module.urls) if module is not None and module.urls else None
    if conf is None or not conf.app_name or any(one.code == "routed.namespace-other" for one in check.findings):
        return
    file, line = view.relative(conf.path), conf.app_name_line
    values = {"asked": asked, "said": conf.app_name, "place": f"{file}:{line}"}
    check.findings.insert(0, view.data.rules.finding("routed.namespace-other", check.module, file, line, **values))


def _first_cause(findings: Iterable[Finding], rungs: Sequence[Rung] = _UP_TO_ADDRESSES) -> Finding | None:
    """Return the first error of a module, up to some rung, that follows from no other."""
    for finding in findings:
        if finding.severity is Severity.ERROR and finding.rung in rungs and not finding.follows_from:
            return finding
    return None
