"""A check as one HTML page that needs nothing else: no network, no scripts; for wide and narrow, light and dark."""

from __future__ import annotations

import re
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .. import __version__
from ..core.findings import consequences
from ..core.ladder import RUNGS, State
from ..core.plaintext import spelled_out
from ..core.plurals import number_of
from .text.check import SIGNS, summary

if TYPE_CHECKING:
    from collections.abc import Iterable

    from ..core.findings import Finding
    from ..core.results import CheckResult, ModuleCheck, SetupCheck

_STYLES = {State.PASS: "pass", State.FAIL: "fail"}
_AROUND = 2


def page(results: Iterable[CheckResult]) -> str:
    """Return the page for the checks of one host, or of several, one below the other."""
    from pystache.parser import parse
    from pystache.renderer import Renderer

    results = list(results)
    template = (Path(__file__).parent / "page.html.mustache").read_text("utf-8")
    setups = [_setup(result, setup, len(results) > 1) for result in results for setup in result.setups]
    findings = [_finding(result, finding, name) for result in results for name, finding in _all(results, result)]
    times = _times(results)
    values = {
        "title": f"Check of {', '.join(result.kit_title for result in results)} modules",
        "facts": "; ".join(_of_host(results, result) + result.root for result in results),
        "summary": "; ".join(_of_host(results, result) + summary(result) for result in results),
        "setups": setups,
        "findings": findings,
        "any_findings": bool(findings),
        "times": times,
        "any_times": bool(times),
        "chart_height": str(24 * len(times) + 12),
        "version": __version__,
    }
    filled: str = Renderer(missing_tags="strict").render(parse(template, delimiters=("«", "»")), _harmless(values))
    return filled


def _harmless(value: Any) -> Any:
    """Spell out, in all texts of the values, what turns the direction of reading or has no place in a page."""
    if isinstance(value, str):
        return spelled_out(value)
    if isinstance(value, dict):
        return {key: _harmless(inner) for key, inner in value.items()}
    return [_harmless(inner) for inner in value] if isinstance(value, list) else value


def _of_host(results: list[CheckResult], result: CheckResult) -> str:
    """Return what stands before a fact of one host where there are several."""
    return f"{result.kit_title}: " if len(results) > 1 else ""


def _all(results: list[CheckResult], result: CheckResult) -> Iterable[tuple[str, Finding]]:
    several = len(result.setups) > 1
    for setup in result.setups:
        words = [result.kit_title] if len(results) > 1 else []
        name = ", ".join([*words, f"{setup.setup} set-up"] if several else words)
        told = [*setup.host_findings, *(one for module in setup.modules for one in module.findings)]
        followed = [finding for finding in told if finding.follows_from]
        for finding in setup.host_findings:
            if not finding.follows_from:
                yield name, finding
        for module in setup.modules:
            for finding in module.findings:
                if not finding.follows_from:
                    yield name, finding
                    for consequence in consequences(finding, module.module, followed):
                        yield name, consequence


def _setup(result: CheckResult, setup: SetupCheck, several: bool) -> dict[str, Any]:
    how = "running host and files" if setup.live else "files only"
    host = f"{result.kit_title} {setup.version}, " if several else ""
    return {
        "heading": f"{host}{setup.setup} set-up, {how}",
        "anchor": f"{result.kit}-{setup.setup}",
        "failure": setup.failure,
        "notes": setup.notes,
        "failure_remedy": setup.failure_remedy,
        "rungs": [str(rung) for rung in RUNGS],
        "modules": [_module(module, bool(setup.failure)) for module in setup.modules],
    }


def _module(module: ModuleCheck, failed: bool) -> dict[str, Any]:
    stop = module.ladder.stops_at
    if stop is not None:
        result, style = f"stops at {stop.rung}", "fail"
    elif module.ladder.served:
        result, style = "served: " + ", ".join(module.addresses[:2]), "pass"
    elif module.findings:
        count = len(module.findings)
        result, style = number_of(count, "finding"), "quiet"
    else:
        result, style = "not asked" if failed else "no problems found", "quiet"
    return {
        "module": module.module,
        "pieces": re.split(r"(?<=[^\s/]/)(?=[^,\s])", result),  # an address may go on in the next line behind a slash
        "style": style,
        "steps": [
            {
                "rung": str(step.rung),
                "state": str(step.state).replace("-", " "),
                "sign": SIGNS[step.state],
                "style": _STYLES.get(step.state, "quiet"),
                "evidence": step.evidence,
            }
            for step in module.ladder.steps
        ],
    }


def _finding(result: CheckResult, finding: Finding, setup_name: str) -> dict[str, Any]:
    lines = _source_lines(Path(result.root), finding)
    return {
        "module": finding.about,
        "severity": str(finding.severity),
        "cause": finding.cause,
        "effect": finding.effect,
        "mend": finding.mend,
        "code": finding.code,
        "place": finding.place or "the host as a whole",
        "follows": finding.follows_from,
        "setup_name": setup_name,
        "source": bool(lines),
        "lines": lines,
    }


def _source_lines(root: Path, finding: Finding) -> list[dict[str, Any]]:
    """Return the lines around a finding; none where the file is not one of the host or not text."""
    path = root / finding.file
    if not finding.file or not finding.line or not path.is_file() or not path.resolve().is_relative_to(root.resolve()):
        return []
    lines = path.read_text("utf-8", "replace").splitlines()
    first = max(finding.line - 1 - _AROUND, 0)
    return [
        {"text": f"{number + 1:>4}  {lines[number]}", "here": number + 1 == finding.line}
        for number in range(first, min(finding.line + _AROUND, len(lines)))
    ]


def _times(results: list[CheckResult]) -> list[dict[str, str]]:
    timed = [
        (path, seconds)
        for result in results
        for setup in result.setups
        for module in setup.modules
        for path, seconds in module.times
    ]
    longest = max((seconds for _, seconds in timed), default=0) or 1
    return [
        {
            "path": path if len(path) <= 38 else path[:37] + "…",
            "milliseconds": f"{seconds * 1000:.0f}",
            "width": f"{max(seconds / longest * 320, 2):.0f}",
            "label_x": f"{308 + max(seconds / longest * 320, 2):.0f}",
            "text_y": str(22 + 24 * number),
            "bar_y": str(9 + 24 * number),
        }
        for number, (path, seconds) in enumerate(timed[:60])
    ]
