"""What ``check`` finds out, as data that reports print: no wording of layout here."""

from __future__ import annotations

from typing import NamedTuple

from .findings import Finding, Severity
from .ladder import Ladder


class ModuleCheck(NamedTuple):
    """The ladder and the findings of one module in one set-up; ``addresses`` are those that answered.

    times -- each page that was asked for, with the seconds until its answer
    """

    module: str
    title: str
    ladder: Ladder
    findings: list[Finding]
    addresses: list[str]
    times: list[tuple[str, float]]

    @property
    def healthy(self) -> bool:
        """True when nothing failed."""
        return self.ladder.stops_at is None and not any(one.severity is Severity.ERROR for one in self.findings)


class Accepted(NamedTuple):
    """A finding that the project accepts, and why."""

    finding: Finding
    reason: str


class SetupCheck:
    """All checked modules in one set-up (``real`` or ``sandbox``).

    live    -- True when the running host was asked
    notes   -- what was done to the set-up before it was checked, as sentences
    failure -- why the host could not be run, empty when it could (or was not asked)
    accepted -- what was found as well, but is accepted by the project
    """

    def __init__(self, setup: str, live: bool, version: str = "") -> None:
        self.setup = setup
        self.live = live
        self.version = version
        self.modules: list[ModuleCheck] = []
        self.host_findings: list[Finding] = []
        self.failure = ""
        self.failure_remedy = ""
        self.notes: list[str] = []
        self.accepted: list[Accepted] = []


class CheckResult(NamedTuple):
    """What ``check`` found in every set-up it looked at.

    below -- where the host's folder lies in its repository, such as ``backend``; empty where it is the whole of it
    """

    kit: str
    kit_title: str
    root: str
    setups: list[SetupCheck]
    seconds: float = 0.0
    below: str = ""

    @property
    def findings(self) -> list[Finding]:
        """All findings, of every set-up."""
        return [
            finding
            for setup in self.setups
            for finding in [*setup.host_findings, *(one for module in setup.modules for one in module.findings)]
        ]
