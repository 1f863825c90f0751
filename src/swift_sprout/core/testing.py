"""What a run of modules' own tests told: which tests there are, which the runner found, and how each ended."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from types import MappingProxyType
from typing import NamedTuple

from .hostfacts import ModuleState


class Outcome(StrEnum):
    """How a test ended."""

    PASSED = "passed"
    FAILED = "failed"
    SKIPPED = "skipped"


class OwnTest(NamedTuple):
    """One test that was run.

    name -- class and method; file, line -- where it stands, relative to the host's root; empty and 0 where not known
    says -- why it failed or was skipped; failed_at -- the deepest place in the host's files where it did
    """

    name: str
    file: str
    line: int
    outcome: Outcome
    seconds: float
    says: str = ""
    failed_at: str = ""

    @property
    def place(self) -> str:
        """Where to look first."""
        return self.failed_at or (f"{self.file}:{self.line}" if self.line else self.file)


class TestForm(NamedTuple):
    """What a runner takes for tests.

    names     -- patterns of the names of files
    functions -- True where plain functions are tests as well, and classes that derive from nothing
    packages  -- True where it looks only into folders that are packages
    """

    names: tuple[str, ...] = ()
    functions: bool = False
    packages: bool = False


class NeverFound(NamedTuple):
    """A file with tests that the runner does not find: why, and what to do.

    sure -- False where the file itself shows no reason
    """

    file: str
    cause: str
    remedy: str
    sure: bool = True


class Recorded(NamedTuple):
    """What was read of a runner's records or output.

    found     -- files that it took tests from; tests -- what became of each
    each      -- False where it does not tell of single tests
    installed -- names of the modules that are on where the tests ran; None where it does not tell
    refused   -- modules, by name or folder, that it cannot look into, and what it says of each
    """

    found: frozenset[str]
    tests: tuple[OwnTest, ...]
    each: bool = True
    installed: frozenset[str] | None = None
    refused: Mapping[str, str] = MappingProxyType({})


class RunnerTold(NamedTuple):
    """How one start of a runner went.

    runner -- what ran the tests, for people; form -- what it takes for tests
    status -- how it ended, None where its time ran out; output -- the end of what it printed
    """

    runner: str
    form: TestForm
    recorded: Recorded
    status: int | None
    output: str


@dataclass
class ModuleTests:
    """The own tests of one module.

    files -- those of its files that hold tests; found -- those that the runner took tests from
    problem -- why they could not be run, or what is wrong beside them; empty for nothing
    """

    module: str
    folder: str
    files: list[str] = field(default_factory=list)
    found: list[str] = field(default_factory=list)
    tests: list[OwnTest] = field(default_factory=list)
    never_found: list[NeverFound] = field(default_factory=list)
    problem: str = ""

    def count(self, outcome: Outcome) -> int:
        """Return how many tests ended so."""
        return sum(one.outcome is outcome for one in self.tests)

    @property
    def seconds(self) -> float:
        """The time that its tests took."""
        return sum(one.seconds for one in self.tests)

    @property
    def failed(self) -> list[OwnTest]:
        """The tests that failed."""
        return [one for one in self.tests if one.outcome is Outcome.FAILED]

    @property
    def well(self) -> bool:
        """True where all that stands in its files was run, and passed."""
        return not (self.failed or self.never_found or self.problem)


@dataclass
class SetupTests:
    """The own tests of modules in one set-up.

    setup   -- its name; runner -- what ran the tests
    states  -- how the host of this set-up sees each module; empty where it was not asked
    failure -- why nothing could be run, and printed -- the end of what the runner printed then
    notes   -- what else is to be said; others -- failed tests of no module
    seconds -- from the start of the first runner to the end of the last
    """

    setup: str
    runner: str = ""
    modules: list[ModuleTests] = field(default_factory=list)
    states: dict[str, ModuleState] = field(default_factory=dict)
    failure: str = ""
    printed: str = ""
    notes: list[str] = field(default_factory=list)
    others: list[OwnTest] = field(default_factory=list)
    seconds: float = 0.0

    @property
    def well(self) -> bool:
        """True where every module's tests were run and passed."""
        return not self.failure and not self.others and all(one.well for one in self.modules)


def share_out(modules: Sequence[ModuleTests], told: Iterable[RunnerTold]) -> list[OwnTest]:
    """Give modules the files and tests that lie in their folders; returns the failed tests that lie in none."""
    others: list[OwnTest] = []
    innermost = sorted(modules, key=lambda one: -len(one.folder))
    for one in told:
        for file in sorted(one.recorded.found):
            owner = next((module for module in innermost if _is_in(file, module.folder)), None)
            if owner is not None and file not in owner.found:
                owner.found.append(file)
        for test in one.recorded.tests:
            owner = next((module for module in innermost if _is_in(test.file, module.folder)), None)
            if owner is not None:
                owner.tests.append(test)
            elif test.outcome is Outcome.FAILED:
                others.append(test)
    return others


def _is_in(path: str, folder: str) -> bool:
    return path == folder or path.startswith(f"{folder}/")
