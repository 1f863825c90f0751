"""Switching modules on and off, settling them, and their data: with the host's own functions."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.changes import ChangeSet
from ....core.errors import HostFailed, Refused, WrongUse
from ....core.hostfacts import StepRun
from ...contract.exchange import Edit, StartUp
from .php import last_line, tell

if TYPE_CHECKING:
    from collections.abc import Sequence

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
        edit.turns += [
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
        edit.turns.append(f"deactivate {module.name} in the host's database")
    edit.stays.append("its tables with their rows, roles and options stay in the database")
    return edit


def turn(view: HostView, module: ModuleFiles, on: bool, limit_seconds: float) -> list[StepRun]:
    """Activate or deactivate a module; nothing is done where it is so already, and with themes."""
    if module.sort == "theme":
        return []
    state = view.ask_state(limit_seconds)
    if (module.key in state["active"]) is on:
        return []
    if on:
        _refuse_unmet(view, module, state["active"])
    else:
        needing = [one.name for one in view.modules if one.key in state["active"] and module.name in one.needs]
        if needing:
            raise Refused(
                "still-needed", f"{', '.join(needing)} needs {module.name} and is on.", f"Disable {needing[0]} first."
            )
    title = f"{'activate' if on else 'deactivate'} {module.name}"
    steps = [_carry_out(view, module, "on" if on else "off", title, limit_seconds)]
    if on and steps[0].done and _brings(module):
        # with its code loaded from the beginning: what its areas and post types register is there now
        steps.append(_carry_out(view, module, "settle", f"settle {module.name}", limit_seconds))
    return steps


def start_up(view: HostView, limit_seconds: float) -> StartUp:
    """Start the host once, with all modules that are on."""
    if view.php is None:
        return StartUp(False)
    try:
        active = view.ask_state(limit_seconds)["active"]
        question = {"file": "", "what": "start"}
        told = tell(view.ready(limit_seconds), "turn.php", view.root, question, limit_seconds, view.environment())
    except HostFailed as error:
        return StartUp(True, (error.sentence,))
    if "done" not in told.answers:
        message = told.answers.get("fatal", [told.answers.get("printed") or told.output])[0]
        return StartUp(True, (f"it stops: {_first_line(str(message))}",))
    return StartUp(True, (), frozenset(one.name for one in view.modules if one.key in active))


def _refuse_unmet(view: HostView, module: ModuleFiles, active: Sequence[str]) -> None:
    keys = {one.name: one.key for one in view.modules}
    for need in module.needs:
        if keys.get(need) not in active:
            there = "is not switched on" if need in keys else "is not here"
            remedy = f"swift-sprout enable {need}" if need in keys else f"Put {need} into wp-content/plugins first."
            raise Refused("need-unmet", f"{module.name} needs {need}, which {there}.", remedy)


def _brings(module: ModuleFiles) -> bool:
    """True for modules that can be settled again: those whose brief is written down."""
    return (module.folder / "sprout.toml").is_file() and not module.single


def _carry_out(
    view: HostView, module: ModuleFiles, what: str, title: str, limit_seconds: float, **more: Any
) -> StepRun:
    php = view.ready(limit_seconds)
    question = {"file": module.key, "what": what, **more}
    told = tell(php, "turn.php", view.root, question, limit_seconds, view.environment())
    answers = told.answers
    if "fatal" in answers:
        message, file, line = answers["fatal"]
        place = f"{view.relative(Path(file))}:{line}"
        raise HostFailed(
            "host-broke", f"{title}: {_first_line(message)} ({place})", f"swift-sprout check {module.name} tells more."
        )
    if answers.get("error"):
        code, message, printed = answers["error"]
        if code == "unexpected_output":
            raise HostFailed(
                "printed-output",
                f"{title}: the module prints before the host has sent its headers: {last_line(printed)[:120]!r}",
                f"It is on now. swift-sprout check {module.name} tells where it prints.",
            )
        raise HostFailed(
            "host-refused", f"{title}: {last_line(message)}", f"swift-sprout check {module.name} tells more."
        )
    if "done" not in answers:
        said = answers.get("printed") or told.output
        raise HostFailed("host-broke", f"{title}: {last_line(said)}", f"swift-sprout check {module.name} tells more.")
    if what == "samples":
        made = ", ".join(f"{count} {name}" for name, count in (answers.get("loaded") or {}).items())
        return StepRun(f"{title}: new rows: {made or 'none'}", True)
    return StepRun(title, True, answers.get("printed", ""))


def _first_line(text: str) -> str:
    return text.strip().splitlines()[0][:300] if text.strip() else "it broke"


def settle(view: HostView, modules: Sequence[ModuleFiles], limit_seconds: float, samples: bool) -> list[StepRun]:
    """Bring tables, roles and rules about, by what modules do when they are switched on.

    Modules that were made by hand are settled where they are named, for nobody can know what that does.
    """
    state = view.ask_state(limit_seconds)
    chosen = [one for one in (modules or view.modules) if one.key in state["active"]]
    steps = []
    for module in chosen:
        if (_brings(module) or modules) and module.sort == "module":
            steps.append(_carry_out(view, module, "settle", f"settle {module.name}", limit_seconds))
        if samples and (module.folder / "sample_data.json").is_file() and not module.single:
            holder = f"{module.namespace}\\Samples"
            title = f"load the sample data of {module.name}"
            steps.append(_carry_out(view, module, "samples", title, limit_seconds, **{"class": holder}))
    return steps


def tables_of(module: ModuleFiles) -> list[str]:
    """Return the tables that a module's brief makes, without the host's prefix."""
    from .reading.parts import written_brief

    brief = written_brief(module)
    if brief is None:
        from .reading.tables import created_tables

        return created_tables(module)
    own = brief.name.snake
    found = []
    for record in brief.records:
        found.append(f"{own}_{record.name.snake}")
        found += [f"{own}_{record.name.snake}_{field.name}" for field in record.fields if field.type == "many"]
    return found


def roles_of(module: ModuleFiles) -> list[str]:
    """Return the roles that a module's brief makes; none for one without a brief."""
    from .composing.shared import role_name
    from .reading.parts import written_brief

    brief = written_brief(module)
    return [role_name(brief, group.key) for group in brief.groups] if brief is not None else []


def kept_data(view: HostView, module: ModuleFiles, limit_seconds: float) -> dict[str, int]:
    """Return how many rows each table of a module holds."""
    names = tables_of(module)
    if not names:
        return {}
    state = view.ask_state(limit_seconds, names)
    if state.get("wrong"):
        raise HostFailed("database-broken", f"The database does not tell: {state['wrong']}.", "Mend the database.")
    rows: dict[str, int] = state["rows"] or {}
    return dict(rows.items())
