"""``undo``: take back the last change set."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.changes import ChangeSet
from ..core.errors import Problem, Refused
from ..disk.earlier import has_earlier_state
from ..disk.journal import Done
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


def undo(opened: OpenHost, preview: bool, pass_over: bool = False, named: int = 0) -> Undone:
    """Take back the last change set of this host, with those of the same run of a command; or the one of a number.

    pass_over -- what only changed the host's own state, and cannot be taken back, is passed over
    named     -- the number that ``history`` tells; 0 for the last

    Raises Refused when there is none, when it cannot be taken back, or when later work would be lost.
    """
    if opened.taken_back:  # by opening the host: that was what stood half-written, and nothing else is touched
        return Undone(f"the interrupted {opened.taken_back}", ChangeSet(""), [], [])
    if preview:
        return _look(opened, False, named)[1]
    with opened.writing("undo"):
        number, undone = _look(opened, pass_over, named)
        last = opened.journal.last() or _NONE
        run = last.run if last.number == number else ""
        for module, on in undone.turns:
            if not on:
                opened.host.set_enabled(module, False)
        opened.journal.undo(number)
        for module, on in undone.turns:
            if on:
                opened.host.set_enabled(opened.host.find(module), True)
        earlier = opened.journal.last()
    if run and earlier is not None and earlier.run == run:
        before = undo(opened, False)
        return Undone(
            undone.title,
            joined(undone.changes, before.changes),
            [*undone.notes, *before.notes],
            [*undone.turns, *before.turns],
        )
    return undone


_NONE = Done("", "", [], [], [])


def joined(later: ChangeSet, earlier: ChangeSet) -> ChangeSet:
    """Return two change sets, applied one after the other, as one."""
    found = ChangeSet(later.title)
    for change in (*later.changes, *earlier.changes):
        found.add(change.path, change.before, change.after)
    return found


def take_over(opened: OpenHost) -> list[str]:
    """Take over the change sets that an earlier version kept in the host's folder; returns their titles.

    Raises Refused where there are none, or one of them is not valid.
    """
    if not has_earlier_state(opened.host.root):
        raise Refused("no-earlier-state", "No earlier version kept change sets in this host.", "Nothing was changed.")
    with opened.writing("take over an earlier version's change sets"):
        return opened.journal.take_over()


def _named(opened: OpenHost, number: int) -> Done:
    """Return the change set of a number; raises Refused where it is not kept, or later ones touch its files."""
    later: list[Done] = []
    for one in opened.journal.done():
        if int(one.number) != number:
            later.append(one)
            continue
        problems = [
            Problem(path, f"change set {int(other.number)}, {other.title!r}, changed it later")
            for other in later
            for path in one.paths
            if path in other.paths
        ]
        if problems:
            raise Refused(
                "undo-not-last",
                f"Later change sets touch the files of change set {number}, {one.title!r}.",
                "Undo those first, the newest first.",
                tuple(problems),
            )
        if one.run and later:
            raise Refused(
                "undo-not-last",
                f"Change set {number} belongs to a run of several, which are taken back together.",
                "Undo what came after it first.",
            )
        return one
    raise Refused("undo-unknown", f"No change set {number} is kept for this host.", "swift-sprout history lists them.")


def _look(opened: OpenHost, pass_over: bool, named: int) -> tuple[str, Undone]:
    last = _named(opened, named) if named else opened.journal.last()
    while last is not None and last.lasting and pass_over and not last.paths:
        opened.journal.pass_over(last.number)
        last = opened.journal.last()
    if last is None:
        raise Refused("nothing-to-undo", "There is no change set of swift-sprout on this host.", "Nothing was changed.")
    if last.lasting and not last.paths:
        what = "It was" if named else "The last thing done was"
        raise Refused(
            "undo-lasting",
            f"{what} {last.title!r}, and nothing takes it back: {last.lasting}.",
            "Nothing was changed" + ("." if named else "; --pass-over goes on to what was done before it."),
        )
    return last.number, Undone(
        last.title,
        opened.journal.inverse(last.number),
        last.notes,
        [(module, not on) for module, on in reversed(last.turned)],
    )
