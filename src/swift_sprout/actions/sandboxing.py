"""``check --sandbox``: the host copied, the modules enabled and settled in the copy, both set-ups checked."""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..core.errors import SproutError
from ..core.results import CheckResult
from ..disk.copying import copy_tree
from ..disk.journal import Journal
from ..running.activity import doing, within
from ..running.scratch import scratch_folder
from .checking import hide_secrets, leave_out, take_accepted

if TYPE_CHECKING:
    from pathlib import Path

    from ..core.results import SetupCheck
    from ..hosts.contract.host import Host
    from .hosting import OpenHost


def check_with_sandbox(opened: OpenHost, names: Sequence[str], keep: bool) -> CheckResult:
    """Check the real set-up, which is only read, and a throw-away copy in which the modules are enabled.

    keep -- leave the copy and say where it is; otherwise it is removed, also when the run is interrupted
    """
    began = time.monotonic()
    doing("asking the real set-up")
    real = opened.host.check(names, live=True)
    with scratch_folder(keep=keep, on_disk=True) as folder:
        doing("copying the host")
        copied = opened.kit.data.facts.sandbox
        outward = copy_tree(opened.host.root, folder, frozenset(copied.leave_out), frozenset(copied.link))
        sandbox = _sandbox(opened.host, folder, names)
        if outward:
            sandbox.notes.append(f"these links lead out of the host, and so out of the copy: {', '.join(outward[:5])}")
        if keep:
            sandbox.notes.append(f"the sandbox is kept in {folder}")
    data = opened.kit.data
    setups = [real, sandbox]
    for setup in setups:
        hide_secrets(setup)
        take_accepted(opened, setup, None, whole=False)
        if not names:
            leave_out(opened, setup)
    return CheckResult(data.id, data.title, str(opened.host.root), setups, time.monotonic() - began, opened.below)


def _sandbox(host: Host, folder: Path, names: Sequence[str]) -> SetupCheck:
    copy = host.sandboxed(folder)
    chosen = [copy.find(name) for name in names] or [module.name for module in copy.modules()]
    journal = Journal(folder, place=folder / ".swift-sprout-state", changed=copy.look_again)
    notes: list[str] = []
    with journal.writing("sandbox"):
        for number, module in enumerate(chosen, 1):
            with within(f"in the copy, module {number} of {len(chosen)}"):
                notes += _switched_on(copy, journal, module)
    doing("asking the copy")
    setup = copy.check(names, live=True)
    setup.setup = "sandbox"
    setup.notes = [*notes, *setup.notes]
    return setup


def _switched_on(copy: Host, journal: Journal, module: str) -> list[str]:
    """Switch a module on in the copy and settle it; returns what was done, or why it could not be."""
    doing(f"enable {module}")
    notes = []
    try:
        edit = copy.switch_on(module, None)
        if edit.changes:
            journal.apply(edit.changes)
        if copy.set_enabled(module, True) or edit.changes:
            notes.append(f"{module} was enabled in the copy")
        copy.settle([module])
    except SproutError as error:
        notes.append(f"{module}: {error.sentence}")
    return notes
