"""What is known of a host and its modules before anything is checked."""

from __future__ import annotations

from typing import NamedTuple


class ModuleState(NamedTuple):
    """One module as ``survey`` shows it; None stands for what could not be asked."""

    name: str
    label: str
    title: str
    version: str
    folder: str
    found: bool
    registered: bool | None
    enabled: bool | None


class Missing(NamedTuple):
    """Something without which the host cannot be worked on here, with its remedy."""

    what: str
    remedy: str


class StepRun(NamedTuple):
    """One refresh step that was carried out: what it was, whether it worked, and the end of what it printed."""

    title: str
    done: bool
    output: str = ""
