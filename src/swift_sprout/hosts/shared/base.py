"""The base of a small kit: it says how modules are judged and what its templates take, and has the rest from here."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import Any

from ...core.brief import BRIEF_FILE, Brief, brief_from_toml
from ...core.brieftext import brief_text
from ...core.changes import ChangeSet
from ...core.errors import Refused
from ...core.hostfacts import Missing
from ...core.modulefolders import ModuleFolder
from ...core.names import name_family
from ...core.results import ModuleCheck, SetupCheck
from ..contract.exchange import ReadBrief
from ..contract.host import Host
from ..contract.kit import HostOptions
from .folderkit import FolderKit
from .programs import FoundProgram, find_program, missing_program


class BaseHost(Host):
    """A host of a small kit: it must say ``judge`` and ``values`` in the place of all that checks and makes modules."""

    @abstractmethod
    def judge(self, modules: Sequence[str], live: bool, result: SetupCheck) -> Iterable[ModuleCheck]:
        """Yield the check of each module; what concerns the host as a whole goes into the result."""

    @cached_property
    def program(self) -> FoundProgram | None:
        """The program that runs the host, where the kit says one; None where there is none."""
        facts = self.data.facts.program
        return find_program(facts, self.options.runtime) if facts is not None else None

    @property
    def runtime(self) -> tuple[str, str]:
        """The program that runs the host, and how it was found."""
        return (self.program.path, self.program.origin) if self.program is not None else ("", "")

    def missing(self) -> list[Missing]:
        """Return what is missing: the program, or a version of it that works."""
        facts = self.data.facts.program
        return missing_program(facts, self.program) if facts is not None else []

    @abstractmethod
    def values(self, brief: Brief) -> dict[str, Any]:
        """Return all values that the kit's templates take of a brief."""

    def check(self, modules: Sequence[str], live: bool) -> SetupCheck:
        """Return ladder and findings of the modules."""
        result = SetupCheck("real", live, self.version)
        known = self.modules()
        names = [self._state(known, name).name for name in modules] or [one.name for one in known]
        result.modules = list(self.judge(names, live, result))
        return result

    def compose(self, brief: Brief, place: ModuleFolder) -> ChangeSet:
        """Return the change set that makes a module of a brief."""
        from .making import free_folder, making

        label = self.label(brief.name)
        folder = free_folder(self.root, place, label)
        return making(self.data, label, folder, self.generate(label, brief), {})

    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module."""
        from .generating import files_of

        before = (self.values(last[0]), last[1]) if last is not None else None
        files = {BRIEF_FILE: brief_text(brief).encode("utf-8")}
        return files | files_of(self.data, self.label(brief.name), self.values(brief), before)

    def read_brief(self, module: str) -> ReadBrief:
        """Return the brief that a module has written down; one without is told to have only a name."""
        state = self.state(module)
        path = self.root / state.folder / BRIEF_FILE
        if path.is_file():
            return ReadBrief(brief_from_toml(path.read_text("utf-8"), f"{state.folder}/{BRIEF_FILE}"), [], {})
        name = name_family(state.title, internal=state.label)
        return ReadBrief(Brief(name), [(state.folder, f"the {self.data.title} kit reads no parts from files")], {})


class BaseKit(FolderKit):
    """A kit whose data lie in a folder; a small kit says ``host``, and the folder of its data."""

    host: type[BaseHost]

    def open(self, root: Path, options: HostOptions) -> BaseHost:
        """Return the host at a root."""
        return self.host(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Refuse: the kit brings no demo host."""
        raise Refused("no-demo", f"The {self.data.title} kit brings no demo host.", "Try --kit django.")
