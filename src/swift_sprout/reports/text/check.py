"""Ladders and findings as text."""

from __future__ import annotations

from ...core.findings import Finding, Severity, consequences, counted
from ...core.ladder import RUNGS, Rung, State
from ...core.plurals import number_of
from ...core.results import CheckResult, ModuleCheck, SetupCheck
from ..rulepages import RulePages
from ..terminal import Terminal
from ..widths import width

SHORT = 3  # letters of a rung's name in the matrix of all modules
SIGNS = {State.PASS: "✓", State.FAIL: "✗", State.BLOCKED: "·", State.NOT_ASKED: "○", State.NOT_APPLICABLE: "–"}
ROOMY = 1000  # columns, where nothing stands beside it
_STATE_STYLE = {State.PASS: "good", State.FAIL: "bad", State.BLOCKED: "dim", State.NOT_ASKED: "dim"}
_SEVERITY_STYLE = {Severity.ERROR: "bad", Severity.WARNING: "warn", Severity.NOTE: "dim"}


def check(out: Terminal, result: CheckResult, evidence: bool, pages: RulePages | None = None) -> None:
    """Write ladders and findings; ``evidence`` writes every rung on a line of its own with what was seen.

    Several set-ups are shown side by side, so that "well in the sandbox, off in the real site" is one glance.
    """
    several = len(result.setups) > 1
    for setup in result.setups:
        _head(out, result, setup)
        for module in setup.modules if evidence else ():
            _ladder(out, module)
        if not several and not evidence:
            _rows(out, result.setups)
        if not several:
            _findings(out, setup, pages)
    if several:
        _rows(out, result.setups)
        said: list[list[Finding]] = []
        for setup in result.setups:
            found = [*setup.host_findings, *(one for module in setup.modules for one in module.findings)]
            if found and found in said:
                out.line(f"The findings in the {setup.setup} set-up are the same.")
                out.line()
            elif found:
                out.line(out.style(f"Findings in the {setup.setup} set-up", "strong"))
                _findings(out, setup, pages)
            said.append(found)
    for setup in result.setups if evidence else ():
        for one in setup.accepted:
            place = f" ({one.finding.place})" if one.finding.place else ""
            out.wrapped(f"accepted: {one.finding.about}: {one.finding.cause}{place}: {one.reason}", "    ", "  – ")
    out.line(summary(result))


def _head(out: Terminal, result: CheckResult, setup: SetupCheck) -> None:
    how = "running host and files" if setup.live else "files only, nothing was run"
    title = f"{result.kit_title} {setup.version}".strip()
    out.line(out.style(f"{title}  {out.path(result.root)}  ({setup.setup} set-up, {how})", "dim"))
    for note in setup.notes:
        out.wrapped(note, "    ", "  – ")
    if setup is result.setups[-1] or setup.failure or setup.modules:
        out.line()
    if setup.failure:
        out.wrapped(f"The host could not be run: {setup.failure}", "  ", out.style("✗ ", "bad"))
        out.wrapped(setup.failure_remedy, "  ")
        out.line()


def _ladder(out: Terminal, module: ModuleCheck) -> None:
    title = f"  {module.title}" if module.title else ""
    out.line(out.style(module.module, "strong") + title)
    for step in module.ladder.steps:
        if out.words:
            out.line(f"  {step.rung}: {spoken(step.state)}. {step.evidence}")
            continue
        sign = out.style(SIGNS[step.state], _STATE_STYLE.get(step.state, "dim"))
        text = step.evidence if step.state in (State.PASS, State.FAIL) else out.style(step.evidence, "dim")
        if out.colour:
            out.line(f"  {sign} {step.rung:<11} {text}")
        else:
            out.wrapped(text, " " * 16, f"  {sign} {step.rung:<11} ")
    out.line()


def _rows(out: Terminal, setups: list[SetupCheck]) -> None:
    """Write a row for each module in each set-up, with its ladder: those of one module stand one below the other."""
    names = list(dict.fromkeys(module.module for setup in setups for module in setup.modules))
    if not names:
        out.line("No module lies in the host's folders.")
        return
    if out.words:
        for setup in setups:
            for one in setup.modules:
                out.line(f"{one.module}, {setup.setup} set-up: {_result(one, setup, ROOMY).removesuffix(' …')}.")
        out.line()
        return
    several = len(setups) > 1
    widest = max(len("module"), *(len(name) for name in names))
    kinds = max(len("set-up"), *(len(setup.setup) for setup in setups)) + 2 if several else 0
    short = " ".join(rung[:SHORT] for rung in RUNGS)
    head = f"{'module':<{widest}}  {'set-up' if several else '':<{kinds}}"
    out.line(out.style(f"{head}{short}  result", "head"))
    for name in names:
        shown = [(setup, one) for setup in setups for one in setup.modules if one.module == name]
        for number, (setup, module) in enumerate(shown):
            begin = f"{'' if number else name:<{widest}}  {setup.setup if several else '':<{kinds}}"
            signs = [(SIGNS[one.state], _STATE_STYLE.get(one.state, "dim")) for one in module.ladder.steps]
            ladder = " ".join(f"{out.style(sign, style)}{'':<{SHORT - 1}}" for sign, style in signs)
            indent = " " * (len(begin) + len(short) + 2)
            out.wrapped(_result(module, setup, out.width - len(indent)), indent, f"{begin}{ladder}  ")
    out.line()
    legend = [f"{rung[:SHORT]} {rung}" for rung in RUNGS]
    out.line(out.style("  ".join(legend[: len(RUNGS) // 2]), "dim"))
    out.line(out.style("  ".join(legend[len(RUNGS) // 2 :]), "dim"))
    legend = [f"{SIGNS[state]} {state.replace('-', ' ')}" for state in State]
    out.line(out.style("  ".join(legend), "dim"))
    out.line()


def spoken(state: State) -> str:
    """Return a state as words."""
    return {State.PASS: "passes", State.FAIL: "fails", State.BLOCKED: "not reached"}.get(state, state.replace("-", " "))


def _result(module: ModuleCheck, setup: SetupCheck, room: int) -> str:
    """Return what came of a module, with as many of its first two addresses as there is room for."""
    stop = module.ladder.stops_at
    if stop is not None:
        return f"stops at {stop.rung}"
    if module.ladder.served:
        for count in (2, 1):
            text = "served: " + ", ".join(module.addresses[:count]) + (" …" if len(module.addresses) > count else "")
            if width(text) <= room and module.addresses:
                return text
        return "served"
    if module.findings:
        count = len(module.findings)
        return number_of(count, "finding")
    return "not asked" if setup.failure else "no problems found"


def _findings(out: Terminal, setup: SetupCheck, pages: RulePages | None) -> None:
    told = [*setup.host_findings, *(one for module in setup.modules for one in module.findings)]
    followed = [finding for finding in told if finding.follows_from]
    for finding in told:
        if not finding.follows_from:
            _finding(out, finding, pages)
            for consequence in consequences(finding, finding.about, followed):
                said = not consequence.place or consequence.file in consequence.cause
                place = "" if said else f" ({consequence.place})"
                out.wrapped(f"follows from it: {consequence.cause}{place}", "        ", "      – ")
    if told:
        out.line()


def _finding(out: Terminal, finding: Finding, pages: RulePages | None) -> None:
    head = f"{finding.severity}: {finding.about}: "
    out.wrapped(finding.cause, "    ", out.style(head, _SEVERITY_STYLE[finding.severity]))
    if finding.place:
        out.line(f"    where   {out.style(finding.place, 'strong')}")
    out.wrapped(finding.effect, " " * 12, "    effect  ")
    out.wrapped(finding.mend, " " * 12, "    remedy  ")
    code = out.link(finding.code, pages.here(finding.code)) if pages is not None else finding.code
    out.line(out.style(f"    rule    {code}", "dim"))


def summary(result: CheckResult) -> str:
    """Return the last line of a check."""
    modules = result.setups[0].modules
    served = sum(module.ladder.served for module in modules)
    found = counted(result.findings)
    accepted = sum(len(setup.accepted) for setup in result.setups)
    found += f", {accepted} accepted" if accepted else ""
    many = number_of(len(modules), "module")
    nothing = modules and all(module.ladder.state(Rung.SERVED) is State.NOT_APPLICABLE for module in modules)
    asked = ", nothing to serve" if nothing else f", {served} served"
    asked = asked if any(setup.live for setup in result.setups) else ""
    return f"{many}{asked}, {found}, {result.seconds:.1f} s"
