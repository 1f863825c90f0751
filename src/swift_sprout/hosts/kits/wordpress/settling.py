"""Bringing the host's state to what is wanted, with its own functions: modules activated, deactivated and settled."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.errors import HostFailed, Refused
from ....core.hostfacts import StepRun
from ....running.activity import doing
from .php import first_line, last_line, tell

if TYPE_CHECKING:
    from collections.abc import Sequence

    from .reading.modules import ModuleFiles
    from .view import HostView


def set_enabled(view: HostView, module: ModuleFiles, on: bool, limit_seconds: float) -> list[StepRun]:
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
    doing(title)
    question = {"file": module.key, "what": what, **more}
    told = tell(php, "turn.php", view.root, question, limit_seconds, view.environment())
    answers = told.answers
    if "fatal" in answers:
        message, file, line = answers["fatal"]
        place = f"{view.relative(Path(file))}:{line}"
        raise HostFailed(
            "host-broke", f"{title}: {first_line(message)} ({place})", f"swift-sprout check {module.name} tells more."
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
    if what in ("on", "off") and answers.get("on") is not (what == "on"):
        #  the host's own function tells of no error where a statement fails, or a module switches itself off again
        said = f": {last_line(answers['wrong'])}" if answers.get("wrong") else ""
        now = "off" if what == "on" else "on"
        raise HostFailed(
            "not-kept",
            f"{title}: the host reported no error, but {module.name} is {now} afterwards{said}.",
            "Try again; if it stays so, look at what the module does when it is activated.",
        )
    if what == "samples":
        made = ", ".join(f"{count} {name}" for name, count in (answers.get("loaded") or {}).items())
        return StepRun(f"{title}: new rows: {made or 'none'}", True)
    return StepRun(title, True, answers.get("printed", ""))
