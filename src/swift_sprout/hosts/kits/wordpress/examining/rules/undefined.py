"""What code asks for and nothing defines: variables of functions, members of classes; no page need come there."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...reading.members import Members
from ...reading.syntax import text_of
from ...reading.variables import undefined_variables

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

#  what comes of it where code asks for a member that is not there (the language's reference, 8.2)
_COMES_OF = {
    "method": 'the request fails there with "Call to undefined method"',
    "constant": 'the request fails there with "Undefined constant"',
    "property": "PHP warns there and goes on with null",
}


def variables(exam: Examination) -> Iterator[Finding]:
    """Variables that a function reads and that nothing in it defines."""
    reached = exam.module.reached_files
    plain = {
        text_of(body.child_by_field_name("name")).lower()
        for file in exam.module.loaded_files
        for body in file.bodies
        if body.type == "function_definition" and "&" not in text_of(body.child_by_field_name("parameters"))
    }
    for file in reached:
        for one in undefined_variables(file.bodies, plain):
            yield exam.find("served.variable-undefined", file.path, one.line, name=f"${one.name}", near=one.near)


def members(exam: Examination) -> Iterator[Finding]:
    """Methods, constants and properties that classes ask of themselves or of each other and do not have."""
    reached = exam.module.reached_files
    held = Members(exam.module.loaded_files)
    for one in (*held.absent(), *held.absent_elsewhere()):
        if one.file in reached:
            yield exam.find(
                "served.member-absent",
                one.file.path,
                one.line,
                sort=one.sort,
                name=one.name,
                of=one.of,
                near=one.near,
                effect=_COMES_OF[one.sort],
            )
