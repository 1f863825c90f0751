"""``pattern try``: a module with irregular words, made from a pattern in a copy of the host and checked there."""

from __future__ import annotations

import re
import time

from ...core.errors import Refused, SproutError, WrongUse
from ...core.names import name_family
from ...core.patterns.pattern import Pattern
from ...core.patterns.results import FromPattern, TestsRun, Tried
from ...core.patterns.words import WordKind
from ...running.activity import doing
from ...running.process import run
from ..hosting import OpenHost
from ..sandboxing import copy_of, enabled_and_checked, told
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
TESTS_SECONDS = 300
TESTS_LINES = 60  # of what failed tests print, as many as are kept


def try_pattern(opened: OpenHost, name: str, variant: str) -> Tried:
    """Make a module of a pattern in a copy of the host and check it there; the host itself is only read.

    Raises what making it raises, and what keeps the copy from being made.
    """
    given = _irregular(opened, read_pattern(opened, name))
    began = time.monotonic()
    with copy_of(opened) as copy:
        made = make_from(copy.opened, name, [given], variant, "", preview=False).modules[0]
        _need_known(copy.opened, made)
        if opened.host.registers:
            setup = enabled_and_checked(copy, [made.module], {made.module: made.address} if made.address else {})
        else:
            setup = copy.opened.host.check([made.module], live=False)
        tests = _run_tests(copy.opened, made)
        result = told(opened, [setup], [made.module], began)
        places = [f"{one.file}:{one.line}" for one in result.findings if one.line and not one.follows_from]
        places += _places_in(tests, copy.opened) if tests.passed is False else []
        traced = {place: _made_by(copy.opened, place) for place in dict.fromkeys(places)}
    return Tried(name, made, result, tests, {place: made_of for place, made_of in traced.items() if made_of})


def _need_known(copy: OpenHost, made: FromPattern) -> None:
    """Raise Refused where the host takes the new folder for no module: the donor was one only as it is registered."""
    try:
        copy.host.find(made.module)
    except WrongUse:
        raise Refused(
            "not-a-module",
            f"Nothing in {made.folder} marks it as a module before it is registered, so it cannot be tried.",
            "Make one with `swift-sprout new`, register it by hand as its donor is, and check it.",
        ) from None


def _run_tests(copy: OpenHost, made: FromPattern) -> TestsRun:
    """Run the own tests of the module on trial by the host's usual means."""
    facts = copy.kit.data.facts.own_tests
    folder = copy.host.folder(made.module)
    if not facts.command:
        return TestsRun(None, f"it is not known how {copy.kit.data.title} hosts run a module's own tests")
    if not any((copy.host.root / folder).rglob("test*")):
        return TestsRun(None, "the module brings none")
    filled = {"runtime": copy.host.runtime[0], "module": copy.host.find(made.module), "folder": folder}
    filled["above"] = folder.rpartition("/")[0] or "."
    doing("running its own tests")
    variables = {"PYTHONDONTWRITEBYTECODE": "1", **facts.variables}
    ended = run([word.format(**filled) for word in facts.command], copy.host.root, TESTS_SECONDS, variables)
    if ended.status is None:
        return TestsRun(False, f"they did not end within {TESTS_SECONDS} seconds")
    lines = [line for line in ended.output.splitlines() if line.strip()]
    return TestsRun(ended.status == 0, "\n".join(lines[-TESTS_LINES:]))


def _places_in(tests: TestsRun, copy: OpenHost) -> list[str]:
    """Return the lines of the copy that a failure names."""
    start = f"{copy.host.root}/"
    found = re.finditer(copy.kit.data.facts.own_tests.failed_at, tests.said)
    return [f"{one['file'].removeprefix(start)}:{one['line']}" for one in found if one["file"].startswith(start)]


def _irregular(opened: OpenHost, pattern: Pattern) -> Given:
    records = [word for word in pattern.facts.asked if word.kind is WordKind.RECORD]
    others = [word for word in pattern.facts.asked if word.kind is not WordKind.RECORD]
    if len(records) > len(RECORDS) or len(others) > len(OTHERS):
        raise WrongUse("words-many", f"The pattern {pattern.name} has more words than can be tried.", "Take some out.")
    named = {word.key: text for word, text in zip(others, OTHERS, strict=False)}
    module = _free_name(opened)
    turned = MODULES.index(module)  # other records as well, where a module on trial has been kept
    return Given(module, "", (RECORDS[turned:] + RECORDS[:turned])[: len(records)], named, AUTHOR)


def _made_by(there: OpenHost, place: str) -> str:
    try:
        found = where(there, place)
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
