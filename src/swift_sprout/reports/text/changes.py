"""Change sets, refresh steps and next commands as text."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..terminal import Terminal

if TYPE_CHECKING:
    from ...core.brief import Brief
    from ...core.changes import ChangeSet
    from ...core.hostfacts import StepRun
    from ...core.refresh import Refresh


def changes(out: Terminal, change_set: ChangeSet, with_diff: bool) -> None:
    """Write a change set as a tree, and as a diff where that is wanted."""
    if out.words:
        for change in change_set.changes:
            out.line(f"  {change.kind}: {change.path}")
    for line in change_set.tree() if not out.words else ():
        out.line("  " + line)
    if not with_diff or not change_set:
        return
    out.line()
    for line in change_set.diff():
        style = "add" if line.startswith("+") else "remove" if line.startswith("-") else "dim"
        styled = line if line.startswith(" ") else out.style(line, "strong" if line[:3] in ("+++", "---") else style)
        out.line(styled)


def refreshes(out: Terminal, needed: Sequence[Refresh]) -> None:
    """Write which refresh the host needs after a change."""
    for number, one in enumerate(needed):
        head = "Refresh:" if number == 0 else ""
        out.wrapped(
            f"nothing: {one.why}" if one.kind == "nothing" else one.why,
            " " * 11,
            f"{out.style(f'{head:<9}', 'strong')}  ",
        )


def next_steps(out: Terminal, steps: Sequence[str]) -> None:
    """Write what to do next, in commands."""
    if steps:
        out.line()
        out.line(out.style("Next:", "strong"))
        for step in steps:
            out.command(step)


def names(out: Terminal, brief: Brief) -> None:
    """Write a module's name family."""
    spellings = brief.name.spellings()
    out.grid(["spelling", "name"], [[key, value] for key, value in spellings.items()])


def steps(out: Terminal, runs: Sequence[StepRun]) -> None:
    """Write the refresh steps that were carried out."""
    for run in runs:
        sign = out.style("✓" if run.done else "✗", "good" if run.done else "bad")
        out.wrapped(run.title, "    ", f"  {('done:' if run.done else 'failed:') if out.words else sign} ")
