"""One Django host as its files show it: project, settings, addresses, modules, interpreter; each read once."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from ...running.interpreter import find_interpreter

if TYPE_CHECKING:
    from pathlib import Path

    from ...running.interpreter import Interpreter, Search
    from ..kitdata import KitData
    from .reading.addresses import Addresses
    from .reading.modules import ModuleFiles
    from .reading.project import Project
    from .reading.settings import Entry, Settings


class HostView:
    """What reading alone tells about a host; nothing here runs anything."""

    def __init__(self, root: Path, data: KitData, python: str | None = None) -> None:
        self.root = root
        self.data = data
        self._python = python

    @cached_property
    def project(self) -> Project:
        """The project's files."""
        from .reading.project import Project

        return Project(self.root)

    @cached_property
    def search(self) -> Search:
        """The search for the host's interpreter."""
        raw = self.data.raw
        return find_interpreter(self._python, self.root, raw["package"], tuple(raw["environments"]))

    @property
    def interpreter(self) -> Interpreter | None:
        """The host's interpreter, or None when none was found."""
        return self.search.found

    @cached_property
    def version(self) -> str:
        """The host's version from the interpreter's package folders; empty when it cannot be told."""
        found = self.interpreter
        return (found.distribution_version(self.data.raw["distribution"]) or "") if found else ""

    @cached_property
    def settings(self) -> Settings | None:
        """The settings, or None when the entry script does not say where they are."""
        from .reading.settings import Settings

        module = self.project.settings_module
        return Settings(self.project, module) if module else None

    @cached_property
    def addresses(self) -> Addresses:
        """The reader of url configurations."""
        from .reading.addresses import Addresses

        return Addresses(self.project)

    @property
    def root_urls(self) -> str:
        """The dotted name of the root url configuration; empty when it cannot be told."""
        value = self.settings.plain("ROOT_URLCONF", "") if self.settings else ""
        return value if isinstance(value, str) else ""

    @cached_property
    def listed(self) -> list[Entry]:
        """The entries of the host's list of modules."""
        value = self.settings.get("INSTALLED_APPS") if self.settings else None
        return [entry for entry in (value.entries if value else []) if isinstance(entry.value, str)]

    @cached_property
    def modules(self) -> list[ModuleFiles]:
        """The modules that lie in the host's folders."""
        from .reading.modules import find_modules

        packages = {name.rpartition(".")[0] for name in (self.root_urls, self.project.settings_module or "")}
        packages |= {name.split(".")[0] for name in (self.root_urls, self.project.settings_module or "")}
        packages |= {(self.project.settings_module or ""), ""}
        return find_modules(self.project, [entry.value for entry in self.listed], packages - {""})

    def module(self, name: str) -> ModuleFiles | None:
        """Return a module by its dotted name."""
        return next((module for module in self.modules if module.name == name), None)

    def entry_of(self, module: ModuleFiles) -> Entry | None:
        """Return the entry of the host's list that names a module, as a package or by its config class."""
        for entry in self.listed:
            if entry.value == module.name or entry.value.startswith(f"{module.name}.apps."):
                return entry
        return None

    def relative(self, path: Path) -> str:
        """Spell a path from the host's root."""
        return self.project.relative(path)
