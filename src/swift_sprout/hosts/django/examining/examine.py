"""Examining modules: rules and evidence put together into ladders and findings."""

from __future__ import annotations

from collections.abc import Sequence

from ....core.findings import Finding, Severity, first_cause_first
from ....core.ladder import Rung, State, build_ladder
from ....core.results import ModuleCheck, SetupCheck
from ..reading.modules import ModuleFiles
from ..view import HostView
from .evidence import evidence
from .examination import Examination, Live
from .live import ask, last_place, said
from .rules import LIVE, STATIC


def examine(view: HostView, modules: Sequence[ModuleFiles], live: bool, limit_seconds: float) -> SetupCheck:
    """Check modules of a host, from its files alone or with the running host asked once for all of them."""
    result = SetupCheck("real", live, view.version)
    answered: Live | None = None
    if live:
        answered = _ask(view, modules, limit_seconds, result)
        result.version = answered.answers.get("entry", {}).get("version", result.version)
    result.host_findings = host_findings(view)
    for module in modules:
        result.modules.append(_examine_one(Examination(view, module, answered)))
    return result


def _ask(view: HostView, modules: Sequence[ModuleFiles], limit_seconds: float, result: SetupCheck) -> Live:
    if view.interpreter is None:
        result.failure = "there is no interpreter with Django to run this host"
        result.failure_remedy = "Name one with --python PATH. Looked at: " + ("; ".join(view.search.tried) or "nothing")
        return Live(failure=result.failure, failure_remedy=result.failure_remedy)
    answered = ask(view, modules, limit_seconds)
    if answered.failure:
        result.failure, result.failure_remedy = answered.failure, answered.failure_remedy
    for step in ("entry", "settings", "databases", "setup", "routes"):
        error = answered.failures.get(step)
        if error is not None and not result.failure:
            place = last_place(error, view.root)
            where = f" ({view.relative(place[0])}:{place[1]})" if place else ""
            result.failure = f"the host stops in step {step}{where}: {said(error)}"
            result.failure_remedy = _remedy(step, error)
            answered.failure = result.failure
    return answered


def _remedy(step: str, error: dict[str, object]) -> str:
    chain = error["chain"]
    assert isinstance(chain, list)
    first = chain[0]
    if first["kind"] == "KeyError" and step in ("entry", "settings"):
        return f"Set the environment variable {first['text']} and run the command again."
    if first["kind"] == "ModuleNotFoundError":
        missing = first.get("missing") or "it"
        return f"Install {missing} for the host's interpreter, or mend the name where it is imported."
    return "Mend what is named there; the host itself stops in the same way."


def host_findings(view: HostView) -> list[Finding]:
    """Return findings about the host's own list that belong to no module: entries whose package is not there."""
    found: list[Finding] = []
    if view.interpreter is None:
        return found
    for entry in view.listed:
        package = entry.value.partition(".apps.")[0]
        top = package.split(".")[0]
        if view.project.folder_of(package) or view.project.file_of(package) or view.interpreter.has(top):
            continue
        if view.interpreter.libraries and top not in view.interpreter.top_level_names():
            found.append(
                view.data.rules.finding(
                    "found.absent",
                    package,
                    view.relative(entry.file),
                    entry.line,
                    entry=entry.value,
                    package=package,
                )
            )
    return found


def _examine_one(one: Examination) -> ModuleCheck:
    asked = LIVE if one.live is not None and not one.live.failure else ()
    findings = first_cause_first(finding for rule in (*STATIC, *asked) for finding in rule(one))
    failed: dict[Rung, str] = {}
    for finding in sorted(findings, key=lambda each: bool(each.follows_from)):
        if finding.severity is Severity.ERROR:
            failed.setdefault(finding.rung, finding.cause)
    seen = evidence(one)
    if one.live is not None and one.live.failure:
        for rung in Rung:
            seen.setdefault(rung, (State.BLOCKED, "the host could not be run"))
    ladder = build_ladder(seen, failed)
    addresses = [ask.path for ask in one.asked if 200 <= ask.answer.status < 300]
    return ModuleCheck(one.module.name, one.module.title, ladder, findings, list(dict.fromkeys(addresses)))
