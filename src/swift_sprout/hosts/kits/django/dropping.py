"""The rows that a Django module keeps, and taking its tables away: tried on copies, the rows saved and read back."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

from ....core.errors import HostFailed, Problem, Refused
from ....core.hostfacts import StepRun
from ....core.plurals import number_of
from ....running.scratch import scratch_folder
from ...shared.savedrows import REMEDY, count_saved
from .asking import Asking, copy_databases, fails_while, said
from .reading.modules import ModuleFiles
from .reading.overrides import parts_that_override
from .settling import Step, carried_out, last_line
from .view import HostView

_WORDS = ("--no-input", "--no-color")
_IRREVERSIBLE = "IRREVERSIBLE"  # how the plan of migrate names an operation without a way back (Django 5.2)


def kept_data(view: HostView, module: ModuleFiles, limit_seconds: float) -> dict[str, int]:
    """Return how many rows the tables of a module hold; raises HostFailed where the host does not tell."""
    with Asking(view, limit_seconds, ("rows",)) as asking:
        live = asking.about([module])
    failures = [
        live.failure,
        *(f"The host fails {fails_while(step)}: {said(error)}." for step, error in live.failures.items()),
    ]
    failures += [
        f"{name} stops the host: {said(error)}." for name, error in live.stopped.items() if name == module.name
    ]
    for failure in filter(None, failures):
        raise HostFailed("rows-unknown", failure, "Fix that: `swift-sprout check` tells where and why.")
    return dict(live.answers.get("rows") or {})


def what_stays(view: HostView, module: ModuleFiles, limit_seconds: float) -> list[str]:
    """Tell which tables of a module stay in the database, with their row counts, as far as the host tells."""
    try:
        counts = kept_data(view, module, limit_seconds)
    except HostFailed:
        return ["its tables stay, however many rows they hold: the host does not tell"]
    return [f"table {table} stays, with {number_of(count, 'row')}" for table, count in counts.items()]


def try_drop(view: HostView, module: ModuleFiles, limit_seconds: float) -> None:
    """Read the plan of the migrations back, then carry it out on copies of the databases, where they can be copied.

    Raises Refused for a plan that takes back migrations of others, or cannot be taken back, and HostFailed.
    """
    steps = _back(module, view)
    for step, ended in carried_out(
        view, [step._replace(words=[*step.words, "--plan"]) for step in steps], limit_seconds
    ):
        if ended.status != 0:
            raise _failed(step, ended.status, ended.output)
        _refuse_plan(module, {one.words[1] for one in steps}, ended.output)
    with scratch_folder(on_disk=True) as copies:
        try:
            copy_databases(view, copies, limit_seconds)
        except Refused:
            return  # a server's database: the plan was all that can be asked without changing it
        run_steps(view, steps, limit_seconds, copies)


def _refuse_plan(module: ModuleFiles, own: set[str], plan: str) -> None:
    others = sorted({*re.findall(r"^(\w+)\.\w+$", plan, re.MULTILINE)} - own)
    if others:
        raise Refused(
            "others-lose-data",
            f"The migrations of {', '.join(others)} rest on those of {module.name}, and would be taken back with their "
            "tables; nothing was changed.",
            "Remove those modules first, or keep the data: --data keep.",
            tuple(Problem(other, "its tables would go as well") for other in others),
        )
    if _IRREVERSIBLE in plan:
        line = next(one.strip() for one in plan.splitlines() if _IRREVERSIBLE in one)
        raise Refused(
            "not-reversible",
            f"A migration of {module.name} has no way back ({line}); nothing was changed.",
            "Give that operation a way back, or keep the data: --data keep.",
        )


def save_rows(view: HostView, module: ModuleFiles, rows_file: Path, limit_seconds: float) -> int:
    """Write the rows to a file in the host's own form, and read it back; returns how many are the module's own."""
    labels = [module.label, *(one.label for one in parts_that_override(view, module))]
    #  --all: a manager of the module's may leave rows out
    words = ["dumpdata", *dict.fromkeys(labels), "--all", "--indent", "1", "--output", str(rows_file)]
    run_steps(view, [Step(f"write the rows to {rows_file.name}", words, REMEDY)], limit_seconds)
    own = f"{module.label}."
    return count_saved(rows_file, lambda held: sum(str(one["model"]).startswith(own) for one in held))


def drop(view: HostView, module: ModuleFiles, limit_seconds: float) -> list[StepRun]:
    """Take the module's migrations back, and its tables with them; raises HostFailed with what the host said last."""
    return run_steps(view, _back(module, view), limit_seconds)


def load_rows(view: HostView, module: ModuleFiles, rows_file: Path, limit_seconds: float) -> None:
    """Apply the module's migrations again, and load the rows."""
    inside = [one.label for one in parts_that_override(view, module)]
    steps = [Step(f"migrate {label}", ["migrate", label, *_WORDS], REMEDY) for label in (*inside, module.label)]
    #  what migrations themselves put into the tables is in the file as well
    steps.append(Step("load the rows", ["loaddata", str(rows_file)], REMEDY))
    run_steps(view, steps, limit_seconds)


def _back(module: ModuleFiles, view: HostView) -> list[Step]:
    steps = []
    for one in parts_that_override(view, module):
        if last := _last_of_host(one):
            steps.append(Step(f"migrate {one.label} back to {last}", ["migrate", one.label, last, *_WORDS], REMEDY))
    return [*steps, Step(f"migrate {module.label} zero", ["migrate", module.label, "zero", *_WORDS], REMEDY)]


def _last_of_host(module: ModuleFiles) -> str:
    """Return the host's own migration that the first one of an override follows; empty for none."""
    first = next(iter(sorted((module.folder / "migrations").glob("[0-9]*.py"))), None)
    text = first.read_text("utf-8", "replace") if first is not None else ""
    found = re.search(rf"\(\s*[\"']{module.label}[\"'],\s*[\"'](\w+)[\"']", text)
    return found.group(1) if found else ""


def run_steps(
    view: HostView, steps: Sequence[Step], limit_seconds: float, on_copies: Path | None = None
) -> list[StepRun]:
    """Carry out steps of the host, on copies of its databases where a folder with them is given; raises HostFailed."""
    runs = []
    for step, ended in carried_out(view, steps, limit_seconds, on_copies):
        if ended.status != 0:
            raise _failed(step, ended.status, ended.output)
        runs.append(StepRun(step.title, True, ended.output))
    return runs


def _failed(step: Step, status: int | None, output: str) -> HostFailed:
    reason = "it took too long" if status is None else last_line(output)
    return HostFailed("drop-failed", f"Step {step.title} did not work: {reason}", step.remedy)
