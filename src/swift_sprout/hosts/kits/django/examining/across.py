"""What findings of one module have to do with those of another, and of the host: one cause is said once."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from .....core.findings import Finding, Severity, explains, of_another
from .....core.ladder import RUNGS, Rung, State
from .....core.results import ModuleCheck

if TYPE_CHECKING:
    from ..view import HostView

_NAMESPACE = re.compile(r"NoReverseMatch: '([\w.:-]+)' is not a registered namespace")
_UP_TO_ADDRESSES = RUNGS[: RUNGS.index(Rung.ROUTED) + 1]
_ON_PAGES = (Rung.PERMITTED, Rung.PLACED, Rung.SERVED)
#  what an error names: in quotes, in brackets, behind "duplicates:", or a class; not the kind of error at its head
_NAMED = re.compile(r"['\"(]([\w.]{4,})['\")]|duplicates: (\w{4,})|\b([A-Z][a-z]+[A-Z]\w+)")
_ID_OF_CHECK = re.compile(r"\w+\.[EWIC]\d+")


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
            named = named or _missed(view, finding, stopped_ones)
            if finding.rung not in _ON_PAGES and not named:
                continue
            cause = _first_cause(checks[named].findings) if named and named != module.module else None
            if cause is not None:
                module.findings[number] = finding._replace(follows_from=of_another(cause.code, named))
                continue
            error = finding.value("error") or finding.value("login")
            match = _NAMESPACE.search(error)
            asked = match[1].partition(":")[0] if match else ""
            owner = owners.get(asked) or labels.get(asked, "")
            if owner in checks and asked not in owners:
                _name_otherwise(checks[owner], view, asked)
            if not owner and module.module not in stopped_ones:
                owner = next((name for name in stopped_ones if _is_of(error, name, match is None)), "")
            cause = _first_cause(checks[owner].findings) if owner in checks and owner != module.module else None
            said = error or finding.value("template") or finding.value("templates")
            place = (finding.code, said, finding.file, finding.line)
            same = met.get(place, "") if said else ""
            met.setdefault(place, module.module)
            if cause is not None:
                module.findings[number] = finding._replace(follows_from=of_another(cause.code, owner))
            elif owner == module.module and any(one.code == "routed.namespace-other" for one in module.findings):
                module.findings[number] = finding._replace(follows_from="routed.namespace-other")
            elif same:
                by_another = same != module.module
                follows = of_another(finding.code, same) if by_another else finding.code
                module.findings[number] = finding._replace(follows_from=follows)
        module.findings.sort(key=lambda one: bool(one.follows_from))


def of_modules(host_findings: Sequence[Finding], modules: Sequence[ModuleCheck], view: HostView) -> list[Finding]:
    """Return pages of the host's own that fail, each as what follows from the module that it asks something of."""
    owners = {_namespace(view, module.name): module.name for module in view.modules}
    labels = {module.label: module.name for module in view.modules}
    checks = {module.module: module for module in modules}
    first = {one.code: one for module in reversed(modules) for one in module.findings if not one.follows_from}
    circle = first.get("served.template-circle")
    folders = first.get("served.template-folder-absent") or first.get("served.template-folders-off")
    found = []
    for finding in host_findings:
        match = _NAMESPACE.search(finding.value("error"))
        asked = match[1].partition(":")[0] if match and finding.code == "served.host-page" else ""
        owner = owners.get(asked) or labels.get(asked, "")
        cause = _first_cause(checks[owner].findings) if owner in checks else None
        if cause is None and circle is not None and finding.value("circle"):
            cause, owner = circle, circle.module
        if cause is None and folders is not None and "TemplateDoesNotExist" in finding.value("error"):
            cause, owner = folders, folders.module
        found.append(finding._replace(follows_from=of_another(cause.code, owner)) if cause is not None else finding)
    return found


def explained(
    host_findings: Sequence[Finding], modules: Sequence[ModuleCheck], stopped: Iterable[str]
) -> list[Finding]:
    """Return findings about the host's start; one follows from that of a module which says more of the same.

    That is the first cause of a module that had to be left out, else an error whose sentence shares a name with it.
    Where the host stops in the same way without that module, it is the other way round.
    """
    left_out = set(stopped)
    own_names = {part for module in modules for part in module.module.lower().split(".")}
    found: list[Finding] = []
    every = (one for module in modules for one in module.findings)
    told = [one for one in every if one.severity is Severity.ERROR and not one.follows_from]
    for finding in host_findings:
        if finding.follows_from:
            found.append(finding)
            continue
        same = next((one for one in told if (one.file, one.line) == (finding.file, finding.line)), None)
        if same is not None and finding.line:
            found.append(finding._replace(follows_from=of_another(same.code, same.about)))
            continue
        behind = next((one for one in told if explains(one, finding)), None)
        if behind is not None:
            found.append(finding._replace(follows_from=of_another(behind.code, behind.about)))
            continue
        said = finding.value("error") or finding.value("text")
        names = _names_in(said) - own_names
        named = next((one for one in host_findings if _says_why(one, finding, names)), None) if said else None
        if named is not None:
            found.append(finding._replace(follows_from=of_another(named.code, named.about)))
            continue
        for module in modules if said else ():
            cause = _first_cause(module.findings, RUNGS)
            if cause is None:
                continue
            if module.module in left_out and cause.value("error") == said:
                _all_follow(module, of_another(finding.code, finding.about))
                continue
            if module.module in left_out or names & _words_of(cause.cause):
                finding = finding._replace(follows_from=of_another(cause.code, module.module))
                break
        found.append(finding)
        told.append(finding)
    return found


def follow_host(modules: Sequence[ModuleCheck], host_findings: Sequence[Finding]) -> None:
    """Mark findings of modules that only follow from one about the host, as their rules say."""
    causes = [one for one in host_findings if one.severity is Severity.ERROR and not one.follows_from]
    for module in modules if causes else ():
        for number, finding in enumerate(module.findings):
            cause = next((one for one in causes if explains(one, finding)), None)
            if cause is not None and not finding.follows_from:
                module.findings[number] = finding._replace(follows_from=of_another(cause.code, cause.about))


def _says_why(one: Finding, finding: Finding, names: set[str]) -> bool:
    """True for what the files say of the settings where the host's start fails for the same name."""
    read = one is not finding and one.severity is Severity.ERROR and not one.value("error") and not one.value("text")
    return read and bool(names & _words_of(one.cause))


def _words_of(sentence: str) -> set[str]:
    return {part for word in re.findall(r"[\w.]+", sentence.lower()) for part in (word, *word.split("."))}


def _names_in(error: str) -> set[str]:
    """Return what an error names: what a sentence that says more of the same cause names as well."""
    text = re.sub(r"^\w+(?:Error|Exception|Configured): ", "", error)
    names = {name for match in _NAMED.finditer(text) for name in match.groups() if name}
    plain = [name for name in names if not _ID_OF_CHECK.fullmatch(name)]
    return {part.lower() for name in plain for part in (name, *name.split("."))}


def _all_follow(module: ModuleCheck, of_host: str) -> None:
    module.findings[:] = [
        one if one.follows_from or one.value("error") == "" else one._replace(follows_from=of_host)
        for one in module.findings
    ]


#  what only a module that was left out brings: migrations that others come after, libraries of tags
_AFTER = re.compile(r"NodeNotFoundError: .* nonexistent parent node \('(\w+)'")
_LIBRARY = re.compile(r"'(\w+)' is not a registered tag library")


def _missed(view: HostView, finding: Finding, stopped: Sequence[str]) -> str:
    """Return the module that had to be left out and brings what a finding misses; empty for none."""
    error = finding.value("error")
    after, library = _AFTER.search(error), _LIBRARY.search(error)
    for name in stopped if after or library else ():
        module = view.module(name)
        brings = library is not None and module is not None and module.has(f"templatetags/{library[1]}.py")
        if brings or (after is not None and module is not None and module.label == after[1]):
            return name
    return ""


def _is_of(error: str, module: str, without_namespace: bool) -> bool:
    """True for an error that a module may lack what it asks for because another one was left out."""
    by_name = without_namespace and "NoReverseMatch" in error
    return by_name or re.search(rf"\b{re.escape(module)}\b", error) is not None


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
    finding = view.data.rules.finding("routed.namespace-other", check.module, file, line, **values)
    check.findings.insert(0, finding)
    steps = check.ladder.steps
    steps[:] = [
        step._replace(state=State.FAIL, evidence=finding.cause) if step.rung is Rung.ROUTED else step for step in steps
    ]


def _first_cause(findings: Iterable[Finding], rungs: Sequence[Rung] = _UP_TO_ADDRESSES) -> Finding | None:
    """Return the first error of a module, up to some rung, that follows from no other."""
    for finding in findings:
        if finding.severity is Severity.ERROR and finding.rung in rungs and not finding.follows_from:
            return finding
    return None
