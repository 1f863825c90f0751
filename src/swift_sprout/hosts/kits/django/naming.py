"""The naming law of Django modules, and whether a name is free on one host."""

from __future__ import annotations

from ....core.errors import Refused, WrongUse
from ....core.names import NameFamily
from ...contract.kitdata import KitData
from ...python.naming import another, check_python_name
from .view import HostView


def check_module_name(view: HostView, data: KitData, name: NameFamily) -> None:
    """Raise when a module cannot have this name: reserved, taken by a package, or taken on the host."""
    label = name.snake
    check_python_name(data, label)
    if view.interpreter is not None and label in view.interpreter.top_level_names():
        raise WrongUse(
            "name-taken",
            f"A module cannot be named {label}: it would hide a package that is installed for this host.",
            another(label),
        )
    for module in view.modules:
        if label in (module.name, module.label):
            raise Refused(
                "name-taken",
                f"This host has a module {module.label} already, in {view.relative(module.folder)}.",
                another(label),
            )
    if label == (view.project.settings_module or "").split(".")[0]:
        raise WrongUse("name-taken", f"{label} is the name of the host's own project package.", another(label))
