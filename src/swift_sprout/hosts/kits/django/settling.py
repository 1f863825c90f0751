"""Carrying out the refresh steps that are due on a Django host."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from ....core.errors import HostFailed
from ....core.hostfacts import StepRun
from ....running.activity import doing
from ....running.process import run
from ...python.interpreter import INSIDE
from ...python.probing import START
from .facts import django
from .reading.modules import ModuleFiles
from .reading.overrides import parts_that_override
from .reading.project import ENTRY_SCRIPT
from .view import HostView

PROBES = Path(__file__).parent / "probe"


class Step(NamedTuple):
    """One console command of the host: its title, its words, and what to do when it does not work."""

    title: str
    words: list[str]
    remedy: str


class Done(NamedTuple):
    """How a step ended: its exit status, None when its time ran out, and what it printed."""

    status: int | None
    output: str


def settle(
    view: HostView, modules: Sequence[ModuleFiles], limit_seconds: float, samples: bool = False
) -> list[StepRun]:
    """Apply migrations through the host's own entry script: of the modules and what they rest on, or of all.

    Raises HostFailed with the last lines the host printed when a step does not work.
    """
    inside = [other for module in modules for other in parts_that_override(view, module)]
    labels = [module.label for module in (*inside, *modules) if _has_migrations(module)]
    if modules and not labels:
        return []
    steps = [
        Step(
            f"migrate {label}".strip(),
            ["migrate", "--no-input", "--no-color", *([label] if label else [])],
            "Fix that; `swift-sprout check` tells where and why.",
        )
        for label in labels or [""]
    ]
    facts = django(view.data)
    for patterns, remedy, wanted in (
        (facts.settle, "Fix that, then settle again.", True),
        (facts.samples, "Fix the sample data.", samples),
    ):
        for module in (modules or view.modules) if wanted else ():
            for pattern in patterns:
                name = pattern.format(label=module.label)
                if module.has(f"management/commands/{name}.py"):
                    steps.append(Step(name, [name], remedy))
    runs = []
    for step, ended in carried_out(view, steps, limit_seconds):
        if ended.status != 0 and "does not have migrations" in ended.output:
            runs.append(StepRun(f"{step.title}: the host sees no migrations of it", True, ended.output))
        elif ended.status != 0:
            reason = "it took too long" if ended.status is None else last_line(ended.output)
            raise HostFailed("settle-failed", f"Step {step.title} did not work: {reason}", step.remedy)
        else:
            runs.append(StepRun(f"{step.title}: {_told(step, ended.output)}", True, ended.output))
    return runs


def _told(step: Step, output: str) -> str:
    """Say what a step did: the migrations that it applied, or the last line that it printed."""
    if step.words[0] != "migrate":
        return last_line(output)
    applied = [line.strip() for line in output.splitlines() if line.strip().startswith("Applying ")]
    return ", ".join(line.removeprefix("Applying ").partition("...")[0] for line in applied) or "nothing was due"


def carried_out(
    view: HostView, steps: Sequence[Step], limit_seconds: float, on_copies: Path | None = None
) -> Iterator[tuple[Step, Done]]:
    """Carry out steps in one start of the host, up to the first that fails; yields each with how it ended.

    on_copies -- a folder with copies of its databases, which are worked on in their place
    """
    assert view.interpreter is not None
    if not steps:
        return
    copies = str(on_copies or view.database_copies or "")
    words = json.dumps([step.words for step in steps])
    start = [str(view.interpreter.path), "-c", START, f"{PROBES}:{INSIDE}", "run", ENTRY_SCRIPT, copies, words]
    doing(", ".join(step.title for step in steps))
    ended = run(start, view.root, max(limit_seconds, 120))
    told = []
    for line in ended.output.splitlines():
        try:
            entry = json.loads(line)
            told.append(Done(entry["status"], entry["output"]))
        except (ValueError, KeyError, TypeError):
            continue  # what the host printed itself
    for step, one in zip(steps, told, strict=False):
        yield step, one
        if one.status != 0 and "does not have migrations" not in one.output:
            return
    if len(told) < len(steps):
        yield steps[len(told)], Done(ended.status or (None if ended.status is None else 1), ended.output)


def _has_migrations(module: ModuleFiles) -> bool:
    return any((module.folder / "migrations").glob("[!_]*.py"))


def last_line(output: str) -> str:
    """Return the line that tells most of what a step printed: the last, or the first error of the host's own checks."""
    lines = [line for line in output.strip().splitlines() if line.strip()]
    if "ERRORS:" in lines[:-1]:
        return lines[lines.index("ERRORS:") + 1][:300]
    return lines[-1][:300] if lines else "it printed nothing"
