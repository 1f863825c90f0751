"""The naming law of hosts whose modules are Python packages."""

from __future__ import annotations

import builtins
import keyword
import sys

from ...core.brief import Brief
from ...core.errors import Problem, WrongUse
from ..contract.kitdata import KitData


def check_python_name(data: KitData, label: str) -> None:
    """Raise WrongUse when no module of a kind can have this name: too long, or kept by Python or the host."""
    law = data.facts.naming
    if len(label) > law.longest:
        raise WrongUse(
            "name-too-long",
            f"The internal name {label[:40]}… has {len(label)} characters; {data.title} has room for {law.longest}.",
            "Give a shorter one: --internal NAME.",
        )
    why = None
    if keyword.iskeyword(label) or keyword.issoftkeyword(label):
        why = "it is a word of the Python language"
    elif label in sys.stdlib_module_names or hasattr(builtins, label):
        why = "Python has a module or built-in of that name, which it would hide"
    elif label in law.taken:
        why = f"{data.title} uses it itself"
    if why:
        raise WrongUse("name-taken", f"A module cannot be named {label}: {why}.", another(label))


def check_inner_names(data: KitData, brief: Brief) -> None:
    """Raise WrongUse when a record or field of a brief has a name that the host or Python keeps for itself."""
    law = data.facts.naming
    problems: list[Problem] = []
    for record in brief.records:
        if record.name.camel in law.reserved_records or keyword.iskeyword(record.name.camel):
            problems.append(Problem(record.name.title, "a record cannot have this name", "Rename it."))
        for field in record.fields:
            reserved = field.name in law.reserved_fields or keyword.iskeyword(field.name)
            if reserved or "__" in field.name or field.name.endswith("_"):
                what = f"this field name is kept by {data.title} or Python"
                problems.append(
                    Problem(f"{record.name.title}.{field.name}", what, f"Say {field.name.strip('_')}_value.")
                )
    for page in brief.pages:
        for parameter in page.parameters:
            if parameter.name in law.reserved_parameters or keyword.iskeyword(parameter.name):
                what = f"the parameter {parameter.name!r} has a name that the made code needs itself"
                problems.append(Problem(page.path, what, f"Say {parameter.name}_value."))
    if problems:
        raise WrongUse(
            "name-reserved", "Some names cannot be used on this host.", "Rename what is listed.", tuple(problems)
        )


def another(label: str) -> str:
    """Tell which other name to choose."""
    return f"Choose another, such as {label}_desk, or keep the title and say --internal NAME."
