"""What a project says of how it is worked on: where its host lies, what runs it, what it accepts."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from fnmatch import fnmatchcase
from types import MappingProxyType
from typing import Literal, NamedTuple

from .findings import Finding


class Acceptance(NamedTuple):
    """What a project accepts, and why.

    code, module, file -- which findings it is about, each with ``*`` for any text; a module or file left out is any
    until -- the last day on which it holds, as YYYY-MM-DD; empty for ever
    """

    code: str
    reason: str
    module: str = "*"
    file: str = "*"
    until: str = ""

    def fits(self, finding: Finding) -> bool:
        """True for a finding that it is about."""
        pairs = ((finding.code, self.code), (finding.module, self.module), (finding.file, self.file))
        return all(fnmatchcase(text, pattern) for text, pattern in pairs)

    def ended(self, today: date) -> bool:
        """True when its last day has passed."""
        return bool(self.until) and date.fromisoformat(self.until) < today

    @property
    def spelled(self) -> str:
        """What it is about, for people."""
        of_module = f" of {self.module}" if self.module != "*" else ""
        return f"{self.code}{of_module}" + (f" in {self.file}" if self.file != "*" else "")


class NamedSetup(NamedTuple):
    """A set-up that a project runs its tests in.

    settings    -- the settings to run the host with, such as ``site.settings.test``
    environment -- variables that are set besides
    """

    settings: str = ""
    environment: Mapping[str, str] = MappingProxyType({})


class ProjectSettings(NamedTuple):
    """The table ``[tool.swift-sprout]`` of pyproject.toml, or swift-sprout.toml; paths start at that file's folder.

    host, kit, runtime, settings, time_limit -- as the options of these names say; empty or 0 where nothing is said
    style     -- signs and tables, or words for those who listen
    leave_out -- folders of the host whose modules are neither checked nor surveyed
    off       -- modules that are off on purpose
    known     -- a check that was written with ``--output FILE.json``: its findings are known
    rule_pages -- the address of a page that explains a rule, with ``{kit}`` and ``{rule}`` in it
    setups    -- the set-ups in which the modules' tests run, by their names
    """

    host: str = ""
    kit: str = ""
    runtime: str = ""
    settings: str = ""
    time_limit: int = 0
    style: Literal["signs", "words"] = "signs"
    leave_out: tuple[str, ...] = ()
    accept: tuple[Acceptance, ...] = ()
    off: tuple[str, ...] = ()
    known: str = ""
    rule_pages: str = ""
    setups: Mapping[str, NamedSetup] = MappingProxyType({})


class Project(NamedTuple):
    """What a project says, and where: the folder and the name of the file; both empty where no file says anything."""

    settings: ProjectSettings = ProjectSettings()
    folder: str = ""
    file: str = ""
