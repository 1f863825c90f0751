"""What ``why`` says alike on every host: who may be asked about, what all things stand on, and what is unknown."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ...core.conditions import Answer, Condition
from ...core.errors import WrongUse
from ...core.ladder import Rung, State
from ...core.nearest import did_you_mean
from ...core.results import ModuleCheck

#  somebody who is not signed in; somebody who is, and no more; one who may enter the administration; one who may do all
PERSONS = ("visitor", "signed in", "staff", "administrator")
#  the same by words that hosts have for them
_OTHERWISE = {"superuser": "administrator", "anonymous": "visitor"}


def person_named(name: str) -> str:
    """Return which of PERSONS a name means, or the name: that of a user of the host."""
    return _OTHERWISE.get(name, name)


def unknown_person(person: str, known: Iterable[str], what: str = "no such user") -> WrongUse:
    """Return the error for a person that the host does not know; addresses of people are not told."""
    named = [name for name in known if "@" not in name]
    return WrongUse("user-unknown", f"--as {person}: this host has {what}.", did_you_mean(person, [*PERSONS, *named]))


def unknown_thing(module: str, what: str | None, known: Iterable[str]) -> WrongUse:
    """Return the error for a thing that a module has not, naming the nearest."""
    sentence = f"{module} has nothing named {what!r} that can be asked about."
    return WrongUse("thing-unknown", sentence, did_you_mean(str(what), known))


def not_running(module: str, thing: str, person: str, failure: str) -> Answer:
    """Return the answer for a host that does not run."""
    failed = Condition("the host runs", State.FAIL, failure, "swift-sprout check")
    return Answer(module, thing, person, False, "nothing: the host does not run", (failed,))


def answered(module: str, thing: str, person: str, now: str, conditions: Iterable[Condition]) -> Answer:
    """Return the answer: the thing is seen where no condition fails or is blocked."""
    told = tuple(conditions)
    seen = all(condition.state not in (State.FAIL, State.BLOCKED) for condition in told)
    return Answer(module, thing, person, seen, now, told)


def whole_module(check: ModuleCheck, person: str, conditions: Sequence[Condition]) -> Answer:
    """Return the answer about the module itself."""
    stop = check.ladder.stops_at
    now = f"it stops at {stop.rung}: {stop.evidence}" if stop else "it is served"
    return Answer(check.module, "the module", person, stop is None, now, tuple(conditions))


def ground_of(check: ModuleCheck, rungs: Sequence[Rung]) -> tuple[Condition, ...]:
    """Return the rungs that a thing stands on as conditions, each with the findings and their mends below it."""
    conditions = []
    for step in check.ladder.steps:
        if step.rung not in rungs or step.state is State.NOT_APPLICABLE:
            continue
        found = [finding for finding in check.findings if finding.rung is step.rung and not finding.follows_from]
        children = tuple(
            Condition(finding.cause, State.FAIL, finding.place, finding.mend)
            for finding in found
            if step.state is State.FAIL
        )
        evidence = "" if any(child.text == step.evidence for child in children) else step.evidence
        conditions.append(Condition(f"the module is {step.rung}", step.state, evidence, "", children))
    return tuple(conditions)
