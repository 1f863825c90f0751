"""A check as JUnit XML: a suite for each module, a case for each rung."""

from __future__ import annotations

from typing import TYPE_CHECKING
from xml.etree import ElementTree

from ..core.ladder import State
from ..core.plaintext import spelled_out

if TYPE_CHECKING:
    from ..core.results import CheckResult, ModuleCheck


def junit(result: CheckResult) -> str:
    """Return the document; blocked and unasked rungs count as skipped."""
    root = ElementTree.Element("testsuites", name="swift-sprout check", time=f"{result.seconds:.3f}")
    for setup in result.setups:
        for module in setup.modules:
            root.append(_suite(f"{setup.setup}/{module.module}", module))
        if setup.failure:
            suite = ElementTree.SubElement(root, "testsuite", name=f"{setup.setup}/host", tests="1", errors="1")
            case = ElementTree.SubElement(suite, "testcase", classname=f"{setup.setup}.host", name="runs")
            ElementTree.SubElement(case, "error", message=_clean(setup.failure)).text = _clean(setup.failure_remedy)
    ElementTree.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, encoding="unicode") + "\n"


def _suite(name: str, module: ModuleCheck) -> ElementTree.Element:
    states = [step.state for step in module.ladder.steps]
    skipped = sum(state in (State.BLOCKED, State.NOT_ASKED, State.NOT_APPLICABLE) for state in states)
    suite = ElementTree.Element(
        "testsuite",
        name=_clean(name),
        tests=str(len(states)),
        failures=str(states.count(State.FAIL)),
        skipped=str(skipped),
    )
    for step in module.ladder.steps:
        case = ElementTree.SubElement(suite, "testcase", classname=_clean(name.replace("/", ".")), name=str(step.rung))
        if step.state is State.FAIL:
            found = [one for one in module.findings if one.rung is step.rung]
            text = "\n".join(f"{one.place}: {one.cause}\n  effect: {one.effect}\n  mend: {one.mend}" for one in found)
            ElementTree.SubElement(case, "failure", message=_clean(step.evidence)).text = _clean(text)
        elif step.state is not State.PASS:
            ElementTree.SubElement(case, "skipped", message=_clean(step.evidence))
    return suite


def _clean(text: str) -> str:
    """Spell out what steers a terminal, and leave out what XML 1.0 has no place for."""
    return "".join(letter for letter in spelled_out(text) if letter in "\n\t" or 0x20 <= ord(letter) != 0xFFFE)
