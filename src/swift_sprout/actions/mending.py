"""``check --mend``: apply the mends that are safe, as one change set, then check again."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ..core.changes import ChangeSet
from ..core.errors import Refused
from ..core.hostfacts import StepRun
from ..core.results import CheckResult
from .checking import check
from .hosting import OpenHost

MOST_ROUNDS = 4


class Mended(NamedTuple):
    """What was mended: codes, edits, refresh steps; ``left`` says what could not be, ``after`` is the check."""

    codes: list[str]
    changes: ChangeSet
    steps: list[StepRun]
    left: list[str]
    before: CheckResult
    after: CheckResult | None


def mend(opened: OpenHost, names: Sequence[str], static: bool, preview: bool) -> Mended:
    """Check, mend what is safe, and check again; further findings that come to light are mended too.

    With ``preview`` nothing is written and one round is shown.
    """
    first = result = check(opened, names, static)
    codes: list[str] = []
    changes = ChangeSet("check --mend")
    steps: list[StepRun] = []
    left: list[str] = []
    for number in range(1 if preview else MOST_ROUNDS):
        with opened.writing("check --mend"):
            done = _round(opened, result, preview, codes, changes, steps, left)
        if not done or preview:
            break
        result = check(opened, names, static)
        if number == MOST_ROUNDS - 1:
            break
    return Mended(codes, changes, steps, left, first, None if preview else result)


def _round(
    opened: OpenHost,
    result: CheckResult,
    preview: bool,
    codes: list[str],
    changes: ChangeSet,
    steps: list[StepRun],
    left: list[str],
) -> bool:
    """Mend the findings of one check; returns whether anything was done."""
    rules = opened.kit.data.rules
    done = False
    seen: set[tuple[str, str]] = set()
    for finding in result.findings:
        if not rules[finding.code].mendable or finding.follows_from or (finding.code, finding.module) in seen:
            continue
        seen.add((finding.code, finding.module))
        try:
            found = opened.host.mend(finding)
        except Refused as error:
            left.append(f"{finding.code}: {error.sentence}")
            continue
        if not preview and (found.changes or found.enable):
            number = opened.journal.apply(found.changes)
            turned = opened.host.set_enabled(finding.module, True) if found.enable else []
            if turned:
                opened.journal.turned(number, finding.module, True)
            steps += turned
        if found.changes:
            for change in found.changes.changes:
                _join(changes, change.path, change.before, change.after)
        if found.settle and not preview:
            steps += opened.host.settle([finding.module])
        if found.changes or found.settle or found.enable:
            codes.append(finding.code)
            done = True
            if found.changes and not preview:
                break  # what follows may have moved: look again
    return done


def _join(changes: ChangeSet, path: str, before: bytes | None, after: bytes | None) -> None:
    """Add a change to the summary; where it does not follow the one before, the later one is shown."""
    try:
        changes.add(path, before, after)
    except ValueError:
        changes.drop(path)
        changes.add(path, before, after)
