"""Carrying out the refresh steps that are due on a Django host."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from ...core.errors import HostFailed
from ...core.hostfacts import StepRun
from ...running.probe import START
from ...running.process import Ended, run
from .reading.modules import ModuleFiles
from .reading.project import ENTRY_SCRIPT
from .view import HostView

PROBES = Path(__file__).parent / "probe"
INSIDE = Path(__file__).parent.parent / "inside"


def settle(
    view: HostView, modules: Sequence[ModuleFiles], limit_seconds: float, samples: bool = False
) -> list[StepRun]:
    """Apply migrations through the host's own entry script: of the modules and what they rest on, or of all.

    Raises HostFailed with the last lines the host printed when a step does not work.
    """
    labels = [module.label for module in modules if _has_migrations(module)]
    if modules and not labels:
        return []
    runs: list[StepRun] = []
    for label in labels or [""]:
        command = ["migrate", "--no-input", "--no-color", *([label] if label else [])]
        ended = _manage(view, command, limit_seconds)
        title = f"migrate {label}".strip()
        if ended.status != 0 and f"'{label}' does not have migrations" in ended.output:
            runs.append(StepRun(f"{title}: the host sees no migrations of it", True, ended.output))
            continue
        if ended.status != 0:
            reason = "it took too long" if ended.status is None else _last_line(ended.output)
            raise HostFailed(
                "settle-failed",
                f"Step {title} did not work: {reason}",
                "Mend that; `swift-sprout check` tells where and why.",
            )
        applied = [line.strip() for line in ended.output.splitlines() if line.strip().startswith("Applying ")]
        names = ", ".join(line.removeprefix("Applying ").partition("...")[0] for line in applied)
        runs.append(StepRun(f"{title}: {names}" if names else f"{title}: nothing was due", True, ended.output))
    for module in modules or view.modules:
        for pattern in view.data.raw.get("settle", ()):
            name = pattern.format(label=module.label)
            if module.has(f"management/commands/{name}.py"):
                runs.append(_own_step(view, name, limit_seconds))
    for module in (modules or view.modules) if samples else ():
        for pattern in view.data.raw["samples"]:
            name = pattern.format(label=module.label)
            if not module.has(f"management/commands/{name}.py"):
                continue
            ended = _manage(view, [name], limit_seconds)
            if ended.status != 0:
                reason = "it took too long" if ended.status is None else _last_line(ended.output)
                raise HostFailed("settle-failed", f"Step {name} did not work: {reason}", "Mend the sample data.")
            runs.append(StepRun(f"{name}: {_last_line(ended.output)}", True, ended.output))
    return runs


def _own_step(view: HostView, name: str, limit_seconds: float) -> StepRun:
    """Carry out a step that a kit's modules bring as a command of their own."""
    ended = _manage(view, [name], limit_seconds)
    if ended.status != 0:
        reason = "it took too long" if ended.status is None else _last_line(ended.output)
        raise HostFailed("settle-failed", f"Step {name} did not work: {reason}", "Mend that, then settle again.")
    return StepRun(f"{name}: {_last_line(ended.output)}", True, ended.output)


def drop(view: HostView, module: ModuleFiles, rows_file: Path, limit_seconds: float) -> list[StepRun]:
    """Write a module's rows to a file in the host's own form, then take its migrations back, and its tables with them.

    Raises HostFailed with the last lines the host printed; the tables are only touched when the rows are written.
    """
    runs: list[StepRun] = []
    steps = [
        (f"write the rows to {rows_file.name}", ["dumpdata", module.label, "--output", str(rows_file)]),
        (f"migrate {module.label} zero", ["migrate", module.label, "zero", "--no-input", "--no-color"]),
    ]
    for title, command in steps:
        ended = _manage(view, command, limit_seconds)
        if ended.status != 0:
            reason = "it took too long" if ended.status is None else _last_line(ended.output)
            raise HostFailed("drop-failed", f"Step {title} did not work: {reason}", "Mend that, or keep the data.")
        runs.append(StepRun(title, True, ended.output))
    return runs


def _manage(view: HostView, arguments: list[str], limit_seconds: float) -> Ended:
    assert view.interpreter is not None
    if view.database_copies is not None:
        start = [
            str(view.interpreter.path),
            "-c",
            START,
            f"{PROBES}:{INSIDE}",
            "run",
            ENTRY_SCRIPT,
            str(view.database_copies),
        ]
        return run([*start, *arguments], view.root, max(limit_seconds, 120))
    return run([str(view.interpreter.path), ENTRY_SCRIPT, *arguments], view.root, max(limit_seconds, 120))


def _has_migrations(module: ModuleFiles) -> bool:
    return any((module.folder / "migrations").glob("[!_]*.py"))


def _last_line(output: str) -> str:
    lines = [line for line in output.strip().splitlines() if line.strip()]
    return lines[-1][:300] if lines else "it printed nothing"
