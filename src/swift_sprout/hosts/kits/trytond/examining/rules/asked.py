"""What domains, conditions, dictionaries and wizards ask for and nothing has, as the running host tells."""

from __future__ import annotations

import ast
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from ......core.nearest import slip_in
from ...reading.code import spelled
from ..examination import near
from .carried import line_beside, line_in
from .told import carried, told_of_all

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ...reading.code import CodeClass
    from ..examination import Examination


def domains(exam: Examination) -> Iterator[Finding]:
    """Domains of fields that ask for what the model does not have."""
    for told in carried(exam, "domains"):
        found = _bringing(exam, told["model"], told["field"])
        if found is not None:
            line = line_in(found, [told["name"]]) or found.fields[told["field"]].line
            yield exam.find(
                "installed.domain-unknown", found.path, line, model=told["model"], field=told["field"],
                name=told["name"], near=near(told["name"], told["known"]),
            )  # fmt: skip


def schemas(exam: Examination) -> Iterator[Finding]:
    """Dictionaries whose keys come from no model, or from one that holds no keys."""
    for told in carried(exam, "schemas"):
        found = _bringing(exam, told["model"], told["field"])
        if found is None:
            continue
        values = {"model": told["model"], "field": told["field"]}
        if told["there"]:
            bringing = [one for one in exam.module.classes if one.model == told["schema"]] or [found]
            yield exam.find(
                "installed.schema-plain", bringing[0].path, bringing[0].line, schema=told["schema"], **values
            )
        else:
            yield exam.find(
                "installed.target-unknown", found.path, found.fields[told["field"]].line, target=told["schema"],
                near=near(told["schema"], told["known"]), **values,
            )  # fmt: skip


def transitions(exam: Examination) -> Iterator[Finding]:
    """States of wizards, put together of what several modules bring, that lack a method, and buttons to no state."""
    for told in carried(exam, "transitions"):
        for found in (one for one in exam.module.classes if one.model == told["wizard"]):
            if told["button"]:
                line = line_in(found, [told["button"]])
                if line:
                    yield exam.find(
                        "placed.wizard-button", found.path, line, wizard=told["wizard"], state=told["button"],
                        near=near(told["button"], told["known"]),
                    )  # fmt: skip
            elif told["state"] in found.assigned:
                wanted = f"transition_{told['state']}"
                yield exam.find(
                    "placed.wizard-transition", found.path, found.assigned[told["state"]].lineno,
                    wizard=told["wizard"], state=told["state"], method=wanted, near=near(wanted, told["known"]),
                )  # fmt: skip


def offered(exam: Examination) -> Iterator[Finding]:
    """Values that conditions, windows and rules compare a selection with, and that must mean another."""
    for told in carried(exam, "offered"):
        if not slip_in(told["value"], told["known"]):
            continue
        place = _in_data(exam, told) if told["id"] else _in_code(exam, told)
        if place is not None:
            yield exam.find(
                "installed.value-unknown", *place, model=told["model"], field=told["field"], value=told["value"],
                near=near(told["value"], told["known"]),
            )  # fmt: skip


def _in_code(exam: Examination, told: Mapping[str, Any]) -> tuple[str, int] | None:
    """Return where the classes of a model compare with a value: by themselves, or through a name of their file."""
    for found in (one for one in exam.module.classes if one.model == told["model"]):
        line = line_in(found, [told["value"]]) or line_beside(exam, found, told["value"])
        if line:
            return exam.view.relative(found.path), line
    return None


def _in_data(exam: Examination, told: Mapping[str, Any]) -> tuple[str, int] | None:
    """Return where the records of a window or rule compare with a value."""
    for record in exam.module.records:
        if told["id"] in (record.id, record.ref("act_window"), record.ref("rule_group")):
            for field in record.fields:
                if f"'{told['value']}'" in field.eval + field.text or f'"{told["value"]}"' in field.eval + field.text:
                    return exam.view.relative(record.path), field.line
    return None


def values_of_data(exam: Examination) -> Iterator[Finding]:
    """Values that data files give to selections and that those do not offer."""
    selections = told_of_all(exam, "selections")
    for record in exam.module.records:
        for field in record.fields:
            known: Sequence[str] = selections.get(record.model, {}).get(field.name, ())
            text = field.text.strip()
            if known and text and text not in known and not (field.ref or field.eval or field.search):
                yield exam.find(
                    "installed.value-refused", record.path, field.line, id=record.id, model=record.model,
                    field=field.name, value=text, near=near(text, known),
                )  # fmt: skip


def copies(exam: Examination) -> Iterator[Finding]:
    """What a method that copies rows says of fields that are not there."""
    fields = told_of_all(exam, "fields")
    for found in exam.module.classes:
        method = found.methods.get("copy")
        known: Sequence[str] = fields.get(found.model, ())
        for said in _keys_of(method, "default") if method is not None else ():
            name = str(said.value).partition(".")[0]
            if known and name not in known and not name.startswith("_"):
                yield exam.find(
                    "installed.copied-unknown", found.path, said.lineno, model=found.model, name=name,
                    near=near(name, known),
                )  # fmt: skip


def _keys_of(method: ast.FunctionDef, variable: str) -> Iterator[ast.Constant]:
    """Yield the texts by which a method sets keys of a dictionary that goes by a name."""
    for node in ast.walk(method):
        key: ast.expr | None = None
        if isinstance(node, ast.Call) and spelled(node.func) == f"{variable}.setdefault" and node.args:
            key = node.args[0]
        elif isinstance(node, ast.Subscript) and spelled(node.value) == variable and isinstance(node.ctx, ast.Store):
            key = node.slice
        if isinstance(key, ast.Constant) and isinstance(key.value, str):
            yield key


def _bringing(exam: Examination, model: str, field: str) -> CodeClass | None:
    """Return the class of the module that brings a field to a model; None where it is another module's."""
    return next((one for one in exam.module.classes if one.model == model and field in one.fields), None)
