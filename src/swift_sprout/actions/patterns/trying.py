"""``pattern try``: a module with irregular words, made from a pattern in a copy of the host and checked there."""

from __future__ import annotations

import time

from ...core.errors import SproutError, WrongUse
from ...core.findings import Finding
from ...core.names import name_family
from ...core.patterns.pattern import Pattern
from ...core.patterns.results import Tried
from ...core.patterns.words import WordKind
from ...core.results import CheckResult
from ..hosting import OpenHost
from ..sandboxing import copy_of, enabled_and_checked
from .locating import where
from .making import Given, make_from
from .store import read_pattern

#  names of two words, and plurals that no rule makes: what only works for regular names comes to light
MODULES = ("Quayside geese", "Oyster wharves", "Lantern mice", "Rope loaves")
RECORDS = (
    "Grey mouse / Grey mice",
    "Wharf / Wharves",
    "Ox cart / Ox carts",
    "Foot bridge / Feet bridges",
    "Child / Kids",
)
OTHERS = ("Salt lane", "Rope walk", "Tar house", "Sail loft", "Oyster bed")
AUTHOR = "Nell Oarsman"


def try_pattern(opened: OpenHost, name: str, variant: str) -> Tried:
    """Make a module of a pattern in a copy of the host and check it there; the host itself is only read.

    Raises what making it raises, and what keeps the copy from being made.
    """
    given = _irregular(opened, read_pattern(opened, name))
    began = time.monotonic()
    with copy_of(opened) as copy:
        made = make_from(copy.opened, name, [given], variant, "", preview=False).modules[0]
        if opened.host.registers:
            setup = enabled_and_checked(copy, [made.module], {made.module: made.address} if made.address else {})
        else:
            setup = copy.opened.host.check([made.module], live=False)
        result = CheckResult(
            opened.kit.data.id, opened.kit.data.title, str(opened.host.root), [setup], time.monotonic() - began
        )
        traced = {one.place: _made_by(copy.opened, one) for one in result.findings if one.line and not one.follows_from}
    return Tried(name, made, result, {place: made_of for place, made_of in traced.items() if made_of})


def _irregular(opened: OpenHost, pattern: Pattern) -> Given:
    records = [word for word in pattern.facts.asked if word.kind is WordKind.RECORD]
    others = [word for word in pattern.facts.asked if word.kind is not WordKind.RECORD]
    if len(records) > len(RECORDS) or len(others) > len(OTHERS):
        raise WrongUse("words-many", f"The pattern {pattern.name} has more words than can be tried.", "Take some out.")
    named = {word.key: text for word, text in zip(others, OTHERS, strict=False)}
    module = _free_name(opened)
    turned = MODULES.index(module)  # other records as well, where a module on trial has been kept
    return Given(module, "", (RECORDS[turned:] + RECORDS[:turned])[: len(records)], named, AUTHOR)


def _made_by(there: OpenHost, finding: Finding) -> str:
    try:
        found = where(there, f"{finding.file}:{finding.line}")
    except (SproutError, OSError):
        return ""
    return f"{found.made_of}:{found.made_line}" if found.made_line else found.made_of


def _free_name(opened: OpenHost) -> str:
    """Return the first of the names on trial that no module of the host has."""
    for name in MODULES:
        try:
            opened.host.check_name(name_family(name))
            return name
        except SproutError as error:
            problem = error
    raise problem
