"""What people do in the administration and what answers it, tried on rows and values that are made up."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

#  what PHP says of code that is wrong whatever the values are (PHP 8.2)
_OF_CODE = re.compile(
    r"Call to undefined|Class \"|Interface \"|Trait \"|Undefined constant|Unknown named parameter|Too few arguments"
    r"|arguments are required|Cannot redeclare|must be of type \S+, (?!null)|Return value must be of type \S+, (?!null)"
    r"|Call to (?:private|protected) method|Cannot access (?:private|protected)|Non-static method"
)


def kept(exam: Examination) -> Iterator[Finding]:
    """Widgets whose function for keeping what people enter returns nothing."""
    for name, told in (exam.answers.get("kept") or {}).items() if exam.loaded else ():
        if told["returned"] == "NULL" and exam.holds(told["file"]):
            yield exam.find("placed.widget-not-kept", told["file"], told["line"], widget=name)


def acted(exam: Examination) -> Iterator[Finding]:
    """What breaks because of the code alone, when it is done once."""
    told: set[tuple[str, int]] = set()
    for what, one in (exam.answers.get("acted") or {}).items() if exam.loaded else ():
        fatal = one.get("fatal")
        if not fatal or not exam.holds(one["file"]) or not _OF_CODE.search(fatal[1]):
            continue
        inside = exam.holds(fatal[2])
        file, line = (fatal[2], int(fatal[3])) if inside else (one["file"], int(one["line"]))
        if (file, line) not in told:
            told.add((file, line))
            yield exam.find("served.action-fails", file, line, what=what, reason=fatal[1].split(", called in")[0])
