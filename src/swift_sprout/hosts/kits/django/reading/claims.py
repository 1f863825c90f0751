"""What enabled modules claim for themselves, so that two that claim the same are found without comparing all pairs."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from .packages import label_of_package

if TYPE_CHECKING:
    from ..view import HostView
    from .modules import ModuleFiles

Owners = dict[str, list[str]]


class Claim(NamedTuple):
    """A name that a module claims, and the file in which it does."""

    name: str
    path: Path


class Claims:
    """Names by what claims them: lists of module names, those that the host takes first in front."""

    def __init__(self, view: HostView) -> None:
        self.view = view

    @cached_property
    def enabled(self) -> list[ModuleFiles]:
        """The listed modules in the order of the host's list."""
        listed = [module for module in self.view.modules if self.view.position(module) is not None]
        return sorted(listed, key=lambda module: self.view.position(module) or 0)

    @cached_property
    def packages(self) -> frozenset[str]:
        """The packages that the host's list names."""
        return frozenset(self.view.app_of(entry.value) for entry in self.view.listed)

    @cached_property
    def labels(self) -> Owners:
        """Listed packages by label, those of packages that lie elsewhere as well."""
        found: Owners = {}
        for entry in self.view.listed:
            package = self.view.app_of(entry.value)
            module = self.view.module(package)
            label = module.label if module else label_of_package(self.view, entry.value)
            if label and package not in found.setdefault(label, []):
                found[label].append(package)
        return found

    @cached_property
    def tables(self) -> Owners:
        """Modules by the tables of their records."""
        return self._by({module.name: module.tables for module in self.enabled})

    @cached_property
    def commands(self) -> Owners:
        """Modules by the console commands that they bring."""
        return self._by({module.name: {claim.name for claim in commands_of(module)} for module in self.enabled})

    @cached_property
    def templates(self) -> Owners:
        """Modules by the templates that they bring; the site's own folders are left out."""
        found: Owners = {}
        enabled = {module.name for module in self.enabled}
        for template in self.view.templates.all:
            if template.owner in enabled:
                found.setdefault(template.name, []).append(template.owner)
        return found

    @cached_property
    def libraries(self) -> Owners:
        """Modules by the tag libraries that they bring."""
        names: dict[str, set[str]] = {module.name: set() for module in self.enabled}
        for library in self.view.templates.libraries:
            if library.owner in names:
                names[library.owner].add(library.name)
        return self._by(names)

    @staticmethod
    def _by(names: dict[str, set[str]]) -> Owners:
        found: Owners = {}
        for owner, claimed in names.items():
            for name in claimed:
                found.setdefault(name, []).append(owner)
        return found


def commands_of(module: ModuleFiles) -> list[Claim]:
    """Return the console commands of a module."""
    if not module.has("management"):
        return []
    folder = module.folder / "management" / "commands"
    if not folder.is_dir():
        return []
    return [Claim(path.stem, path) for path in sorted(folder.glob("*.py")) if not path.name.startswith("_")]
