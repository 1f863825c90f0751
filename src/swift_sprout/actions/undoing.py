"""``undo``: take back the last change set."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.changes import ChangeSet
from ..core.errors import Refused
from ..disk.earlier import has_earlier_state
from .hosting import OpenHost


@dataclass
class Undone:
    """The change set that was taken back, the files that changed by it, and what undoing does not reach.

    turns -- modules that are switched on (True) or off again in the host's own state
    """

    title: str
    changes: ChangeSet
    notes: list[str]
    turns: list[tuple[str, bool]]


def undo(opened: OpenHost, preview: bool) -> Undone:
    """Take back the last change set of this host; raises Refused when there is none or later work would be lost."""
    if opened.taken_back:  # by opening the host: that was what stood half-written, and nothing else is touched
        return Undone(f"the interrupted {opened.taken_back}", ChangeSet(""), [], [])
    if preview:
        return _look(opened)[1]
    with opened.writing("undo"):
        number, undone = _look(opened)
        for module, on in undone.turns:
            if not on:
                opened.host.set_enabled(module, False)
        opened.journal.undo(number)
        for module, on in undone.turns:
            if on:
                opened.host.set_enabled(opened.host.find(module), True)
    return undone


def take_over(opened: OpenHost) -> list[str]:
    """Take over the change sets that an earlier version kept in the host's folder; returns their titles.

    Raises Refused where there are none, or one of them is not valid.
    """
    if not has_earlier_state(opened.host.root):
        raise Refused("no-earlier-state", "No earlier version kept change sets in this host.", "Nothing was changed.")
    with opened.writing("take over an earlier version's change sets"):
        return opened.journal.take_over()


def _look(opened: OpenHost) -> tuple[str, Undone]:
    last = opened.journal.last()
    if last is None:
        raise Refused("nothing-to-undo", "There is no change set of swift-sprout on this host.", "Nothing was changed.")
    return last.number, Undone(
        last.title,
        opened.journal.inverse(last.number),
        last.notes,
        [(module, not on) for module, on in reversed(last.turned)],
    )
