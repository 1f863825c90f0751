"""``check --sandbox``: the host copied, the modules enabled and settled in the copy, both set-ups checked."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import TYPE_CHECKING, NamedTuple

from ..core.errors import SproutError
from ..core.results import CheckResult
from ..disk.copying import copy_tree
from ..disk.journal import Journal
from ..disk.walking import KEPT_IN_COPY
from ..running.activity import doing, within
from ..running.scratch import scratch_folder
from .checking import hide_secrets, leave_out, take_accepted
from .hosting import OpenHost

if TYPE_CHECKING:
    from ..core.results import SetupCheck
    from ..hosts.contract.host import Host


def check_with_sandbox(opened: OpenHost, names: Sequence[str], keep: bool) -> CheckResult:
    """Check the real set-up, which is only read, and a throw-away copy in which the modules are enabled.

    keep -- leave the copy and say where it is; otherwise it is removed, also when the run is interrupted
    """
    began = time.monotonic()
    doing("asking the real set-up")
    real = opened.host.check(names, live=True)
    with copy_of(opened, keep) as copy:
        sandbox = enabled_and_checked(copy, names, {})
    return told(opened, [real, sandbox], names, began)


def told(opened: OpenHost, setups: list[SetupCheck], names: Sequence[str], began: float) -> CheckResult:
    """Return set-ups as people are told of them: without secrets, and without what the project accepts or leaves out.

    names -- the modules that were asked for; none: all
    began -- the monotonic clock when that was
    """
    for setup in setups:
        hide_secrets(setup)
        take_accepted(opened, setup, None, whole=False)
        if not names:
            leave_out(opened, setup)
    data = opened.kit.data
    return CheckResult(data.id, data.title, str(opened.host.root), setups, time.monotonic() - began, opened.below)


class CopiedHost(NamedTuple):
    """A throw-away copy of a host, open for commands, and what is to be said of the copying."""

    opened: OpenHost
    notes: list[str]


@contextmanager
def copy_of(opened: OpenHost, keep: bool = False) -> Iterator[CopiedHost]:
    """Copy a host to a throw-away folder, in which everything may be changed.

    keep -- leave the copy and say where it is; otherwise it is removed, also when the run is interrupted
    """
    with scratch_folder(keep=keep, on_disk=True) as folder:
        doing("copying the host")
        facts = opened.kit.data.facts.sandbox
        outward = copy_tree(opened.host.root, folder, frozenset(facts.leave_out), frozenset(facts.link))
        host = opened.host.sandboxed(folder)
        journal = Journal(folder, place=folder / KEPT_IN_COPY, changed=host.look_again)
        notes = []
        if outward:
            notes.append(f"these links lead out of the host, and so out of the copy: {', '.join(outward[:5])}")
        if keep:
            notes.append(f"the sandbox is kept in {folder}")
        yield CopiedHost(opened._replace(host=host, journal=journal), notes)


def enabled_and_checked(copy: CopiedHost, names: Sequence[str], addresses: Mapping[str, str]) -> SetupCheck:
    """Enable modules in a copy (all where none is named), settle them and check them in one start.

    addresses -- under which the pages of a module go, by any of its names
    """
    host, journal = copy.opened.host, copy.opened.journal
    addresses = {host.find(name): address for name, address in addresses.items()}
    chosen = [host.find(name) for name in names] or [module.name for module in host.modules()]
    notes: list[str] = []
    with journal.writing("sandbox"):
        for number, module in enumerate(chosen, 1):
            with within(f"in the copy, module {number} of {len(chosen)}"):
                notes += _switched_on(host, journal, module, addresses.get(module))
    doing("asking the copy")
    setup = host.check(names, live=True)
    setup.setup = "sandbox"
    setup.notes = [*notes, *setup.notes, *copy.notes]
    return setup


def _switched_on(copy: Host, journal: Journal, module: str, at: str | None) -> list[str]:
    """Switch a module on in the copy and settle it; returns what was done, or why it could not be."""
    doing(f"enable {module}")
    notes = []
    try:
        edit = copy.switch_on(module, at)
        if edit.changes:
            journal.apply(edit.changes)
        if copy.set_enabled(module, True) or edit.changes:
            notes.append(f"{module} was enabled in the copy")
        copy.settle([module])
    except SproutError as error:
        notes.append(f"{module}: {error.sentence}")
    return notes
