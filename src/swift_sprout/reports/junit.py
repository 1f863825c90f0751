"""A check as JUnit XML: a suite for each module, a case for each rung."""

from __future__ import annotations

from typing import TYPE_CHECKING
from xml.etree import ElementTree

from ..core.findings import Severity
from ..core.ladder import State
from ..core.plaintext import spelled_out

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ..core.findings import Finding
    from ..core.results import CheckResult, ModuleCheck, SetupCheck


def junit(result: CheckResult) -> str:
    """Return the document; blocked and unasked rungs count as skipped."""
    root = ElementTree.Element("testsuites", name="swift-sprout check", time=f"{result.seconds:.3f}")
    for setup in result.setups:
        for module in setup.modules:
            root.append(_suite(f"{setup.setup}/{module.module}", module))
        found = [finding for finding in setup.host_findings if finding.severity is not Severity.NOTE]
        if setup.failure or found:
            root.append(_host(setup, found))
    ElementTree.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, encoding="unicode") + "\n"


def _host(setup: SetupCheck, found: Sequence[Finding]) -> ElementTree.Element:
    """Return the suite of the host as a whole: whether it runs, and a case for each finding that is no module's."""
    counts = {"tests": 1 + len(found), "failures": len(found), "errors": int(bool(setup.failure))}
    shown = {key: str(count) for key, count in counts.items()}
    suite = ElementTree.Element("testsuite", {"name": f"{setup.setup}/host", **shown})
    runs = ElementTree.SubElement(suite, "testcase", classname=f"{setup.setup}.host", name="runs")
    if setup.failure:
        ElementTree.SubElement(runs, "error", message=clean(setup.failure)).text = clean(setup.failure_remedy)
    for finding in found:
        case = ElementTree.SubElement(suite, "testcase", classname=f"{setup.setup}.host", name=finding.code)
        ElementTree.SubElement(case, "failure", message=clean(finding.cause)).text = clean(_told(finding))
    return suite


def _told(finding: Finding) -> str:
    return f"{finding.place}: {finding.cause}\n  effect: {finding.effect}\n  remedy: {finding.mend}"


def _suite(name: str, module: ModuleCheck) -> ElementTree.Element:
    states = [step.state for step in module.ladder.steps]
    skipped = sum(state in (State.BLOCKED, State.NOT_ASKED, State.NOT_APPLICABLE) for state in states)
    suite = ElementTree.Element(
        "testsuite",
        name=clean(name),
        tests=str(len(states)),
        failures=str(states.count(State.FAIL)),
        skipped=str(skipped),
    )
    for step in module.ladder.steps:
        case = ElementTree.SubElement(suite, "testcase", classname=clean(name.replace("/", ".")), name=str(step.rung))
        if step.state is State.FAIL:
            found = [one for one in module.findings if one.rung is step.rung]
            text = "\n".join(map(_told, found))
            ElementTree.SubElement(case, "failure", message=clean(step.evidence)).text = clean(text)
        elif step.state is not State.PASS:
            ElementTree.SubElement(case, "skipped", message=clean(step.evidence))
    return suite


def clean(text: str) -> str:
    """Spell out what steers a terminal, and leave out what XML 1.0 has no place for."""
    return "".join(letter for letter in spelled_out(text) if letter in "\n\t" or 0x20 <= ord(letter) != 0xFFFE)
