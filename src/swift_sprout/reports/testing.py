"""Runs of modules' own tests as data and as JUnit XML: a suite for each module in each set-up, a case for each test."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from xml.etree import ElementTree

from ..core.testing import ModuleTests, Outcome, OwnTest, SetupTests
from .junit import clean


def tests_document(done: Sequence[SetupTests]) -> dict[str, Any]:
    """Return runs in set-ups as plain data."""
    return {"format": "swift-sprout/test/1", "setups": [_setup(one) for one in done]}


def _setup(done: SetupTests) -> dict[str, Any]:
    return {
        "setup": done.setup,
        "runner": done.runner,
        "seconds": round(done.seconds, 3),
        "failure": done.failure,
        "printed": done.printed,
        "notes": done.notes,
        "modules": [_module(one, done) for one in done.modules],
        "others": [_test(one) for one in done.others],
    }


def _module(module: ModuleTests, done: SetupTests) -> dict[str, Any]:
    state = done.states.get(module.module)
    return {
        "module": module.module,
        "files": module.files,
        "found": module.found,
        "run": len(module.tests),
        **{outcome.value: module.count(outcome) for outcome in Outcome},
        "seconds": round(module.seconds, 3),
        "problem": module.problem,
        "never_found": [one._asdict() for one in module.never_found],
        "tests": [_test(one) for one in module.tests],
        "registered": state.registered if state else None,
        "described": bool(state.title) if state else None,
        "enabled": state.enabled if state else None,
    }


def _test(one: OwnTest) -> dict[str, Any]:
    return {**one._asdict(), "outcome": one.outcome.value}


def tests_junit(done: Sequence[SetupTests]) -> str:
    """Return the document; a file that the runner never finds counts as a failed case of its module."""
    root = ElementTree.Element("testsuites", name="swift-sprout test", time=f"{sum(one.seconds for one in done):.3f}")
    for setup in done:
        if setup.failure:
            suite = ElementTree.SubElement(root, "testsuite", name=f"{setup.setup}/host", tests="1", errors="1")
            case = ElementTree.SubElement(suite, "testcase", classname=f"{setup.setup}.host", name="runs")
            ElementTree.SubElement(case, "error", message=clean(setup.failure)).text = clean(setup.printed)
        for module in setup.modules:
            root.append(_suite(setup.setup, module))
        if setup.others:
            root.append(_suite(setup.setup, ModuleTests("host", "", tests=setup.others)))
    ElementTree.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(root, encoding="unicode") + "\n"


def _suite(setup: str, module: ModuleTests) -> ElementTree.Element:
    wrong = [(one.file, f"never found: {one.cause}. {one.remedy}") for one in module.never_found]
    wrong += [("as it should be", module.problem)] if module.problem else []
    suite = ElementTree.Element(
        "testsuite",
        name=f"{setup}/{module.module}",
        tests=str(len(module.tests) + len(wrong)),
        failures=str(module.count(Outcome.FAILED) + len(wrong)),
        skipped=str(module.count(Outcome.SKIPPED)),
        time=f"{module.seconds:.3f}",
    )
    for one in module.tests:
        about = {"classname": f"{module.module}", "name": clean(one.name), "time": f"{one.seconds:.3f}"}
        case = ElementTree.SubElement(suite, "testcase", {**about, "file": one.file, "line": str(one.line)})
        if one.outcome is Outcome.FAILED:
            ElementTree.SubElement(case, "failure", message=clean(one.says)).text = clean(one.place)
        elif one.outcome is Outcome.SKIPPED:
            ElementTree.SubElement(case, "skipped", message=clean(one.says))
    for name, cause in wrong:
        case = ElementTree.SubElement(suite, "testcase", classname=module.module, name=clean(name))
        ElementTree.SubElement(case, "failure", message=clean(cause))
    return suite
