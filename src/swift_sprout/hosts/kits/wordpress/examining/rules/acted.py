"""What people do in the administration and what answers it, tried on rows and values that are made up."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

#  what PHP says of code that is wrong whatever the values are (PHP 8.2); where files were written, which are not there
#  when they are read again, not that a value is of another type
_OF_CODE = re.compile(
    r"^the template \S+ does not exist|Call to undefined|Class \"|Interface \"|Trait \"|Undefined constant"
    r"|Unknown named parameter|Too few arguments|arguments are required|Cannot redeclare|Non-static method"
    r"|expects (?:exactly|at least|at most) \d+ arguments?, \d+ given"
    r"|must be of type \S+, (?!null)|Return value must be of type \S+, (?!null)"
    r"|Call to (?:private|protected) method|Cannot access (?:private|protected)"
)


def of_code(message: str, wrote: bool) -> bool:
    """True where PHP's message tells of code that is wrong, not of the values that it was tried with."""
    return bool(_OF_CODE.search(message)) and not (wrote and "must be of type" in message)


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
        if not fatal or not exam.holds(one["file"]) or not of_code(fatal[1], bool(one.get("wrote"))):
            continue
        inside = exam.holds(fatal[2])
        file, line = (fatal[2], int(fatal[3])) if inside else (one["file"], int(one["line"]))
        if (file, line) not in told:
            told.add((file, line))
            yield exam.find("served.action-fails", file, line, what=what, reason=fatal[1].split(", called in")[0])
