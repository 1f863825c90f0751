"""Why something is seen or not: conditions as a tree, what a person gets now, and what would make it appear."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from .ladder import State


class Condition(NamedTuple):
    """One condition: what must hold, whether it does, what was seen, and what would make it hold."""

    text: str
    state: State
    evidence: str = ""
    mend: str = ""
    children: tuple[Condition, ...] = ()

    def walk(self) -> Iterator[Condition]:
        """Yield this condition and all below it."""
        yield self
        for child in self.children:
            yield from child.walk()


class Answer(NamedTuple):
    """The answer to why: the thing asked about, the person, whether it is seen, what is seen now, the conditions."""

    module: str
    thing: str
    person: str
    seen: bool
    now: str
    conditions: tuple[Condition, ...]

    @property
    def commands(self) -> list[str]:
        """What would make it appear, in order, each once."""
        mends = [one.mend for top in self.conditions for one in top.walk() if one.state is State.FAIL and one.mend]
        return list(dict.fromkeys(mends))


def judged(text: str, holds: bool, evidence: str = "", mend: str = "", *children: Condition) -> Condition:
    """Make a condition that passes or fails; it fails as well when one below it fails."""
    failed = not holds or any(child.state is State.FAIL for child in children)
    return Condition(text, State.FAIL if failed else State.PASS, evidence, "" if holds else mend, children)
