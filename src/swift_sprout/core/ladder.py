"""The rungs on the way to being served, and the ladder of one module in one set-up."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple


class Rung(StrEnum):
    """One condition on the way to being served, lowest first."""

    FOUND = "found"
    DESCRIBED = "described"
    REGISTERED = "registered"
    COMPATIBLE = "compatible"
    ENABLED = "enabled"
    INSTALLED = "installed"
    ROUTED = "routed"
    PERMITTED = "permitted"
    PLACED = "placed"
    SERVED = "served"


RUNGS: tuple[Rung, ...] = tuple(Rung)


class State(StrEnum):
    """How a rung stands.

    BLOCKED means that a lower rung failed, so that this one could not be reached; NOT_ASKED that the question needs
    the running host and the check only read files; NOT_APPLICABLE that the module carries nothing of the sort.
    """

    PASS = "pass"
    FAIL = "fail"
    BLOCKED = "blocked"
    NOT_ASKED = "not-asked"
    NOT_APPLICABLE = "not-applicable"


class Step(NamedTuple):
    """One rung of a ladder with its state and the evidence for it, in one line."""

    rung: Rung
    state: State
    evidence: str


class Ladder(NamedTuple):
    """The steps of one module in one set-up, lowest rung first."""

    steps: list[Step]

    def state(self, rung: Rung) -> State:
        """Return the state of a rung; NOT_ASKED when the ladder does not hold it."""
        for step in self.steps:
            if step.rung is rung:
                return step.state
        return State.NOT_ASKED

    @property
    def stops_at(self) -> Step | None:
        """The lowest step that failed, or None."""
        return next((step for step in self.steps if step.state is State.FAIL), None)

    @property
    def served(self) -> bool:
        """True when the last rung passed."""
        return self.state(Rung.SERVED) is State.PASS


def build_ladder(evidence: dict[Rung, tuple[State, str]], failed: dict[Rung, str]) -> Ladder:
    """Join what was seen per rung with the rungs that findings say have failed.

    evidence -- per rung the state and evidence that were seen; a rung left out counts as not asked
    failed   -- per failed rung the cause, from the findings of severity error

    A rung that was not asked, above one that failed, is blocked.
    """
    steps: list[Step] = []
    broken: Rung | None = None
    for rung in RUNGS:
        state, text = evidence.get(rung, (State.NOT_ASKED, "asked only of the running host"))
        if rung in failed:
            state, text = State.FAIL, failed[rung]
        elif broken is not None and state is State.NOT_ASKED:
            state, text = State.BLOCKED, f"not reached: {broken} failed"
        if state is State.FAIL and broken is None:
            broken = rung
        steps.append(Step(rung, state, text))
    return Ladder(steps)
