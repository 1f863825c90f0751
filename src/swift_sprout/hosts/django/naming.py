"""The naming law of Django modules, and whether a name is free on one host."""

from __future__ import annotations

import builtins
import keyword
import sys

from ...core.brief import Brief
from ...core.errors import Problem, Refused, WrongUse
from ...core.names import NameFamily
from ..kitdata import KitData
from .view import HostView


def check_module_name(view: HostView, data: KitData, name: NameFamily) -> None:
    """Raise when a module cannot have this name: reserved, taken by a package, or taken on the host."""
    law = data.raw["naming"]
    label = name.snake
    if len(label) > law["longest"]:
        raise WrongUse(
            "name-too-long",
            f"The internal name {label[:40]}… has {len(label)} characters; {data.title} has room for {law['longest']}.",
            "Give a shorter one: --internal NAME.",
        )
    why = None
    if keyword.iskeyword(label) or keyword.issoftkeyword(label):
        why = "it is a word of the Python language"
    elif label in sys.stdlib_module_names or hasattr(builtins, label):
        why = "Python has a module or built-in of that name, which it would hide"
    elif label in law["taken"]:
        why = f"{data.title} uses it itself"
    elif view.interpreter is not None and label in view.interpreter.top_level_names():
        why = "a package of that name is installed for this host, which it would hide"
    if why:
        raise WrongUse("name-taken", f"A module cannot be named {label}: {why}.", _another(label))
    for module in view.modules:
        if label in (module.name, module.label):
            raise Refused(
                "name-taken",
                f"This host has a module {module.label} already, in {view.relative(module.folder)}.",
                _another(label),
            )
    if label == (view.project.settings_module or "").split(".")[0]:
        raise WrongUse("name-taken", f"{label} is the name of the host's own project package.", _another(label))


def check_inner_names(data: KitData, brief: Brief) -> None:
    """Raise WrongUse when a record or field of a brief has a name that Django or Python keeps for itself."""
    law = data.raw["naming"]
    problems: list[Problem] = []
    for record in brief.records:
        if record.name.camel in law["reserved_records"] or keyword.iskeyword(record.name.camel):
            problems.append(Problem(record.name.title, "a record cannot have this name", "Rename it."))
        for field in record.fields:
            reserved = field.name in law["reserved_fields"] or keyword.iskeyword(field.name)
            if reserved or "__" in field.name or field.name.endswith("_"):
                what = "this field name is kept by Django or Python"
                problems.append(
                    Problem(f"{record.name.title}.{field.name}", what, f"Say {field.name.strip('_')}_value.")
                )
    if problems:
        raise WrongUse(
            "name-reserved", "Some names cannot be used on this host.", "Rename what is listed.", tuple(problems)
        )


def _another(label: str) -> str:
    return f"Choose another, such as {label}_desk, or keep the title and say --internal NAME."
