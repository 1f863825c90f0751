"""Enabled: the fields of records are given what their classes need."""

from __future__ import annotations

import ast
from collections.abc import Iterator

from ......core.findings import Finding
from ...reading.code import spelled
from ..examination import Examination

#  what a field's class cannot do without (Django 5.2): the argument, and at which place of the arguments it may stand
_NEEDED = {
    "ForeignKey": (("on_delete", 1),),
    "OneToOneField": (("on_delete", 1),),
    "DecimalField": (("max_digits", 2), ("decimal_places", 3)),
}
#  what is meant to be asked for each record, and is not where it is called in the class
_CALLED = {"now", "today", "utcnow", "uuid1", "uuid4", "time", "localdate", "localtime"}


def arguments(exam: Examination) -> Iterator[Finding]:
    """Fields that lack an argument, or whose default is worked out once for all records."""
    for path, record in exam.model_classes():
        for statement in record.body:
            call = statement.value if isinstance(statement, ast.Assign | ast.AnnAssign) else None
            if not isinstance(call, ast.Call):
                continue
            kind = spelled(call.func).rpartition(".")[2]
            given = {key.arg for key in call.keywords}
            if None in given or any(isinstance(one, ast.Starred) for one in call.args):
                continue
            for name, place in _NEEDED.get(kind, ()):
                if name not in given and len(call.args) <= place:
                    yield exam.find("enabled.field-lacks", path, call.lineno, kind=kind, name=name)
            default = next((key.value for key in call.keywords if key.arg == "default"), None)
            if kind.endswith("Field") and isinstance(default, ast.Call) and not default.args:
                if spelled(default.func).rpartition(".")[2] in _CALLED:
                    value = spelled(default.func)
                    yield exam.find("enabled.default-called", path, default.lineno, default=value)


STATIC = (arguments,)
