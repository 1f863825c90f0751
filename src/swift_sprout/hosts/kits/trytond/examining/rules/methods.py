"""What methods promise: a value where the host goes on with it, and the names of fields that they depend on."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...reading.code import CodeClass, spelled
from ..examination import near

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination
    from ..models import KnownModel

#  methods with whose result the host goes on, by the sort of their class (its 8.2)
_RETURNING = {
    "model": {
        "copy", "create", "read", "search", "get_rec_name", "search_rec_name", "view_attributes", "preprocess_values",
        "fields_get", "fields_view_get", "default_get", "table_query", "order_rec_name",
    },
    "report": {"get_context", "execute", "render"},
    "wizard": set(),
}  # fmt: skip
_PREFIXES = {"model": ("default_", "on_change_with_"), "report": (), "wizard": ()}


def returning(exam: Examination) -> Iterator[Finding]:
    """Methods that return nothing although the host goes on with what they return."""
    for sort, found in exam.listed:
        if sort not in _RETURNING:
            continue
        wanted = _RETURNING[sort] | _named_by_fields(found) | _of_states(found, sort)
        for name, method in found.methods.items():
            if (name in wanted or name.startswith(_PREFIXES[sort])) and _is_silent(method):
                yield exam.find(
                    "installed.returns-nothing", found.path, method.lineno, method=name, model=found.model or found.name
                )


def _named_by_fields(found: CodeClass) -> set[str]:
    """Return the methods that fields of a class name as getters, searchers and selections."""
    names: list[ast.expr] = []
    for value in found.assigned.values():
        if not isinstance(value, ast.Call) or not spelled(value.func).startswith("fields."):
            continue
        kind, inner = spelled(value.func), value
        if kind == "fields.Function":
            names += value.args[1:2]
            names += [key.value for key in value.keywords if key.arg in ("getter", "searcher")]
            if value.args and isinstance(value.args[0], ast.Call):
                inner, kind = value.args[0], spelled(value.args[0].func)
        if kind in ("fields.Selection", "fields.MultiSelection"):
            names += inner.args[:1]
        names += [key.value for key in inner.keywords if key.arg == "selection"]
    return {one.value for one in names if isinstance(one, ast.Constant) and isinstance(one.value, str)}


def _of_states(found: CodeClass, sort: str) -> set[str]:
    """Return the methods of a wizard's states: what follows, what a form begins with, and the action that is opened."""
    names = set()
    for state, value in found.assigned.items() if sort == "wizard" else ():
        kind = spelled(value.func).rpartition(".")[2] if isinstance(value, ast.Call) else ""
        if kind == "StateTransition":
            names.add(f"transition_{state}")
        elif kind == "StateView":
            names |= {f"default_{state}", f"value_{state}"}
        elif kind in ("StateAction", "StateReport"):
            names.add(f"do_{state}")
    return names


def _is_silent(method: ast.FunctionDef) -> bool:
    """True for a method with work in it that never returns a value; one that is only to be overridden has none."""
    work = [
        node
        for node in method.body
        if not isinstance(node, ast.Pass | ast.Raise | ast.Return)
        and not (isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant))
    ]
    raises = bool(method.body) and isinstance(method.body[-1], ast.Raise)
    nodes = list(ast.walk(method))
    answers = any(
        (isinstance(node, ast.Return) and node.value is not None) or isinstance(node, ast.Yield | ast.YieldFrom)
        for node in nodes
    )
    return bool(work) and not raises and not answers


def depending(exam: Examination) -> Iterator[Finding]:
    """Fields that a method says it depends on, or changes at the press of a button, and that are not there."""
    owned = exam.models.owned()
    if not exam.view.core:
        return
    for sort, found in exam.listed:
        model = owned.get(found.model)
        if sort != "model" or model is None:
            continue
        for name, method in found.methods.items():
            for decorator in method.decorator_list:
                if not isinstance(decorator, ast.Call):
                    continue
                if spelled(decorator.func) not in ("fields.depends", "ModelView.button_change"):
                    continue
                for said in decorator.args:
                    missing = _missing(said, model, owned)
                    if missing is not None:
                        yield exam.find(
                            "installed.depends-unknown", found.path, said.lineno, method=name, model=found.model,
                            field=missing[0], of=missing[1], near=missing[2],
                        )  # fmt: skip


def _missing(said: ast.expr, model: KnownModel, owned: dict[str, KnownModel]) -> tuple[str, str, str] | None:
    """Return the field of a path that is not there, whose it would be, and what is near it; None where all is there."""
    if not isinstance(said, ast.Constant) or not isinstance(said.value, str):
        return None
    current: KnownModel | None = model
    of = "its model"
    for part in said.value.split("."):
        name = part.removeprefix("_parent_")
        if current is None or current.open:
            return None
        if name not in current.fields:
            return name, of, near(name, current.fields)
        field = current.fields[name]
        of = field.target if field is not None else ""
        current = owned.get(of)
    return None
