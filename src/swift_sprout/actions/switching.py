"""``enable``, ``disable`` and ``settle``."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass, field

from ..core.changes import ChangeSet
from ..core.errors import HostFailed
from ..core.hostfacts import StepRun
from ..hosts.contract.exchange import Edit
from .confirming import confirm_out
from .hosting import OpenHost
from .resting import Ground, has_brief


@dataclass
class Switched:
    """What switching a module on or off did, or would do; ``turns`` is what a preview tells of the host's own state."""

    module: str
    changes: ChangeSet
    already: list[str] = field(default_factory=list)
    stays: list[str] = field(default_factory=list)
    steps: list[StepRun] = field(default_factory=list)
    turns: list[str] = field(default_factory=list)


def enable(opened: OpenHost, name: str, at: str | None, preview: bool) -> Switched:
    """Register a module and carry out the refresh steps that are due.

    When the host does not start with it, the edits are taken back. Raises Refused where the files leave a doubt, and
    HostFailed when there is no interpreter or the host stops.
    """
    module = opened.host.find(name)
    if has_brief(opened.host, module):
        Ground(opened).refuse_what_is_absent(opened.host.read_brief(module).brief, "enabled")
    if preview:
        return _switched(module, opened.host.switch_on(module, at))
    opened.host.need_runtime()
    with _writing(opened, f"enable {module}"):
        edit = opened.host.switch_on(module, at)
        number = opened.journal.apply(edit.changes) if edit.changes else None
        result = _switched(module, edit)
        turned: list[StepRun] = []  # whatever is switched on in the host's own state is settled with it
        try:
            turned = opened.host.set_enabled(module, True)
            result.steps = turned or opened.host.settle([module])
            if number is not None and not result.steps:  # nothing has started the host yet
                _need_start(opened, module)
        except HostFailed as error:
            if number is None and not turned:
                raise
            if turned:
                opened.host.set_enabled(module, False)
            if number is not None:
                opened.journal.undo(number)
            raise HostFailed(
                error.code, f"{error.sentence} The entries for {module} were taken back.", error.remedy
            ) from None
        if turned:
            number = number or opened.journal.apply(edit.changes)
            opened.journal.turned(number, module, True)
        if number is not None:
            for step in result.steps[len(turned) :]:
                opened.journal.note(number, f"{step.title} (stays in the database)")
    return result


def _need_start(opened: OpenHost, module: str) -> None:
    """Start the host with a module that was just registered; raises HostFailed where it does not start."""
    started = opened.host.start_up()
    if started.failures:
        raise HostFailed(
            "host-stops",
            f"With {module} the host does not start: {started.failures[0].rstrip('.')}.",
            f"swift-sprout check {module} tells where and why.",
        )


def disable(opened: OpenHost, name: str, preview: bool) -> Switched:
    """Take a module out of the registration; its files and data stay.

    The host is asked to start before this is done. Raises Refused, with everything as before, where the files leave a
    doubt, and where the host still has the module or does not start without it.
    """
    module = opened.host.find(name)
    if preview:
        return _switched(module, opened.host.switch_off(module))
    with _writing(opened, f"disable {module}"):
        edit = opened.host.switch_off(module)
        result = _switched(module, edit)
        off = _Off(opened, module, edit)
        if off.number or edit.unsure:
            result.stays += confirm_out(opened, module, edit, off.back, off.again)
        result.steps = off.steps
    return result


class _Off:
    """Switches a module off, and on again where that turns out to be wrong."""

    def __init__(self, opened: OpenHost, module: str, edit: Edit) -> None:
        self._opened, self._module, self._edit = opened, module, edit
        self.number = ""
        self.steps: list[StepRun] = []
        self.again()

    def again(self) -> None:
        """Switch it off."""
        self.steps = self._opened.host.set_enabled(self._module, False)
        if self._edit.changes or self.steps:
            self.number = self._opened.journal.apply(self._edit.changes)
        if self.steps:
            self._opened.journal.turned(self.number, self._module, False)

    def back(self) -> None:
        """Put everything back as it was."""
        if self.number:
            self._opened.journal.undo(self.number)
        if self.steps:
            self._opened.host.set_enabled(self._module, True)


def settle(opened: OpenHost, names: Sequence[str], samples: bool = False) -> list[StepRun]:
    """Carry out the refresh steps that are due; for all modules when none is named."""
    modules = [opened.host.find(name) for name in names]
    with _writing(opened, "settle"):
        return opened.host.settle(modules, samples)


def _writing(opened: OpenHost, purpose: str) -> AbstractContextManager[None]:
    return opened.writing(purpose)


def _switched(module: str, edit: Edit) -> Switched:
    return Switched(module, edit.changes, edit.already, edit.stays, turns=edit.state_changes)
