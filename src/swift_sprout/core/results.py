"""What ``survey`` and ``check`` find out, as data that reports print: no wording of layout here."""

from __future__ import annotations

from dataclasses import dataclass, field

from .findings import Finding, Severity
from .hostfacts import Missing, ModuleState, Place
from .ladder import Ladder


@dataclass
class HostFacts:
    """One host as ``survey`` shows it; texts are empty where a fact is not known."""

    kit: str
    title: str
    root: str
    version: str = ""
    runtime: str = ""
    runtime_origin: str = ""
    settings: str = ""
    addresses: str = ""
    database: str = ""
    places: list[Place] = field(default_factory=list)
    modules: list[ModuleState] = field(default_factory=list)
    missing: list[Missing] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


@dataclass
class ModuleCheck:
    """The ladder and the findings of one module in one set-up; ``addresses`` are those that were really asked."""

    module: str
    title: str
    ladder: Ladder
    findings: list[Finding] = field(default_factory=list)
    addresses: list[str] = field(default_factory=list)

    @property
    def healthy(self) -> bool:
        """True when nothing failed."""
        return self.ladder.stops_at is None and not any(one.severity is Severity.ERROR for one in self.findings)


@dataclass
class SetupCheck:
    """All checked modules in one set-up (``real`` or ``sandbox``).

    live    -- True when the running host was asked
    failure -- why the host could not be run, empty when it could (or was not asked)
    """

    setup: str
    live: bool
    version: str = ""
    modules: list[ModuleCheck] = field(default_factory=list)
    host_findings: list[Finding] = field(default_factory=list)
    failure: str = ""
    failure_remedy: str = ""


@dataclass
class CheckResult:
    """What ``check`` found in every set-up it looked at."""

    kit: str
    kit_title: str
    root: str
    setups: list[SetupCheck]
    seconds: float = 0.0

    @property
    def findings(self) -> list[Finding]:
        """All findings, of every set-up."""
        return [
            finding
            for setup in self.setups
            for finding in [*setup.host_findings, *(one for module in setup.modules for one in module.findings)]
        ]
