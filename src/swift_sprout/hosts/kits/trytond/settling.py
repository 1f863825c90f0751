"""Bringing the host's database to what is wanted: modules activated and deactivated, updated, their samples loaded."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.errors import HostFailed, Problem, Refused
from ....core.hostfacts import StepRun
from .running import carry_out
from .view import ON

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView


def set_enabled(view: HostView, module: ModuleFiles, on: bool, limit_seconds: float) -> list[StepRun]:
    """Activate or deactivate a module in the database.

    Raises Refused when modules that are on need one that is to go off, and HostFailed with the host's reason.
    """
    if view.database is None:
        raise HostFailed(
            "no-database",
            "The host has no SQLite database that could be worked on.",
            "Make it with the host's own administration command, and name its folder under [database] path.",
        )
    is_on = view.state(module) in ON
    if is_on == on:
        return []
    if on:
        words = ["-m", "-u", module.name, "--activate-dependencies"]
        carry_out(view, f"activate {module.name}", "admin", limit_seconds, words=words)
        return [StepRun(f"activate {module.name} in database {view.database_name}", True)]
    holders = [
        one.name
        for one in view.modules
        if view.state(one) in ON and one is not module and module.name in {item.text for item in one.depends}
    ]
    if holders:
        raise Refused(
            "needed-by",
            f"{module.name} cannot be switched off: {', '.join(holders)} need{'s' if len(holders) == 1 else ''} it.",
            "Switch those off first.",
            tuple(Problem(name, "needs it") for name in holders),
        )
    carry_out(view, f"deactivate {module.name}", "deactivate", limit_seconds, modules=[module.name])
    return [StepRun(f"deactivate {module.name} in database {view.database_name}", True)]


def settle(view: HostView, modules: list[ModuleFiles], limit_seconds: float, samples: bool) -> list[StepRun]:
    """Update the modules that are on, so that the database follows their files; raises HostFailed."""
    chosen = modules or [module for module in view.modules if module.own]
    active = [module for module in chosen if view.state(module) in ON]
    runs: list[StepRun] = []
    if active:
        names = [module.name for module in active]
        title = f"update {', '.join(names)}"
        runs.append(StepRun(title, True, carry_out(view, title, "admin", limit_seconds, words=["-u", *names])))
    for module in active if samples else ():
        if module.has("samples.py"):
            output = carry_out(view, f"samples of {module.name}", "samples", limit_seconds, modules=[module.name])
            runs.append(StepRun(f"load samples of {output.strip().splitlines()[-1]}", True, output))
    return runs
