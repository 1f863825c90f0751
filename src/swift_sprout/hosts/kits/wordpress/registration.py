"""Registering a module: the host's database alone says what is on, so that no file is edited."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import Refused, WrongUse
from ...contract.exchange import Edit

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

THEME_REMEDY = "Choose one in the administration under Appearance."


def switch_on(view: HostView, module: ModuleFiles, at: str | None) -> Edit:
    """Return what switching a module on will do; raises WrongUse for an address of its own, Refused for no module."""
    if at is not None:
        raise WrongUse("no-address", "A module's pages stand below its own name here.", "Leave out --at.")
    if module.sort == "theme":
        raise Refused("is-theme", f"{module.name} is a theme: one of them is always on.", THEME_REMEDY)
    if not module.mains:
        raise Refused(
            "no-module",
            f"The host sees no module in {view.relative(module.place)}: no file there has a header with its name.",
            f"swift-sprout check {module.name} tells what is wrong.",
        )
    edit = Edit(ChangeSet(f"enable {module.name}"))
    if view.is_on(module):
        edit.already.append(f"the database says that {module.name} is on")
    else:
        edit.state_changes += [
            f"activate {module.name} in the host's database, which runs what it does at that: tables, roles, rules"
        ]
    return edit


def switch_off(view: HostView, module: ModuleFiles) -> Edit:
    """Return what switching a module off will do, and what it leaves; raises Refused for a theme."""
    if module.sort == "theme":
        raise Refused("is-theme", f"{module.name} is a theme: one of them is always on.", THEME_REMEDY)
    edit = Edit(ChangeSet(f"disable {module.name}"))
    if view.is_on(module) is False:
        edit.already.append(f"the database does not say that {module.name} is on")
    else:
        edit.state_changes.append(f"deactivate {module.name} in the host's database")
    edit.stays.append("its tables with their rows, roles and options stay in the database")
    return edit
