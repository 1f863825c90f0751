"""What ``survey`` finds out about a host."""

from __future__ import annotations

from dataclasses import dataclass, field

from .hostfacts import Missing, ModuleState
from .modulefolders import ModuleFolder


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
    places: list[ModuleFolder] = field(default_factory=list)
    modules: list[ModuleState] = field(default_factory=list)
    missing: list[Missing] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
