"""What runners write of a run as JUnit XML, with the file and line of each test (its first version)."""

from __future__ import annotations

import re
from xml.etree import ElementTree

from ...core.testing import Outcome, OwnTest

_PLACE = re.compile(r"^(?P<file>[\w./-]+\.\w+):(?P<line>\d+): ", re.MULTILINE)


def read_junit(text: str) -> list[OwnTest] | None:
    """Return the tests of a report; None where there is none that can be read."""
    try:
        root = ElementTree.fromstring(text)
    except ElementTree.ParseError:
        return None
    return [_test(case) for case in root.iter("testcase")]


def _test(case: ElementTree.Element) -> OwnTest:
    wrong = next((case.find(tag) for tag in ("failure", "error") if case.find(tag) is not None), None)
    skipped = case.find("skipped")
    outcome = Outcome.FAILED if wrong is not None else Outcome.SKIPPED if skipped is not None else Outcome.PASSED
    told = wrong if wrong is not None else skipped
    says = (told.get("message") or "").strip() if told is not None else ""
    places = list(_PLACE.finditer(wrong.text or "")) if wrong is not None else []
    name = ".".join(part for part in (case.get("classname", "").rpartition(".")[2], case.get("name", "")) if part)
    line = case.get("line", "")
    return OwnTest(
        name, case.get("file", ""), int(line) + 1 if line.isdigit() else 0, outcome, float(case.get("time") or 0), says,
        f"{places[-1]['file']}:{places[-1]['line']}" if places else "",
    )  # fmt: skip
