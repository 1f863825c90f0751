"""A host as its files show it: configuration, databases, modules."""

from __future__ import annotations

import os
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from ....running.interpreter import Interpreter, Search, find_interpreter
from ...python.interpreter import PythonFacts
from .reading.database import Database
from .reading.entrypoints import EntryPoint, entry_points, linked_folders
from .reading.inifile import IniFile
from .reading.modules import CORE, MANIFEST, ModuleFiles, order_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ....running.servers import RunningServer
    from ...contract.kitdata import KitData
    from ...python.undefined import Undefined
    from .examining.models import KnownModels

CONFIGURATION = "trytond.conf"
_NOT_LOOKED_INTO = frozenset({".git", ".swift-sprout", "__pycache__", "node_modules", "data"})


ON = ("activated", "to upgrade")  # states of a module in the database in which it is loaded


class HostView:
    """The files of one host, each read once.

    database_copies -- a folder whose databases stand for the configured ones, for a copy of the host
    """

    def __init__(self, root: Path, data: KitData, python: str | None, database_copies: Path | None = None) -> None:
        self.root = root
        self.data = data
        self._python = python
        self.database_copies = database_copies
        self.owners: dict[str, str] | None = None
        self.known_models: KnownModels | None = None
        self.icons: set[str] | None = None

    def relative(self, path: Path) -> str:
        """Return a path as people read it: relative to the root where it lies below."""
        for library in self.libraries:
            if path.is_relative_to(library) and not library.is_relative_to(self.root):
                return path.relative_to(library).as_posix()
        return path.relative_to(self.root).as_posix() if path.is_relative_to(self.root) else str(path)

    @cached_property
    def servers(self) -> list[RunningServer]:
        """The servers of this host that run on this machine and do not reload."""
        from ....running.servers import running_servers

        def is_server(words: Sequence[bytes]) -> bool:
            own = any(b'"command": "serve"' in word for word in words)
            return own or (any(word.endswith(b"/trytond") for word in words) and b"--dev" not in words)

        return running_servers(self.root, is_server)

    @cached_property
    def undefined(self) -> dict[str, list[Undefined]]:
        """The names that code of the host's own modules uses and nothing defines, by file."""
        from ...python.undefined import undefined_names

        return undefined_names(self.root)

    @cached_property
    def models_with_rights(self) -> frozenset[str]:
        """The models that a right of any module names."""
        return frozenset().union(*(module.shared.with_rights for module in self.modules))

    @cached_property
    def reports(self) -> frozenset[str]:
        """The names of the reports that modules register."""
        found = set()
        for module in (*self.modules, *self.core):
            for said in module.registered:
                one = module.registered_class(said.text) if said.sort == "report" else None
                if one is not None and one.model:
                    found.add(one.model)
        return frozenset(found)

    @cached_property
    def referred_to(self) -> frozenset[str]:
        """The ids that data of any module refers to, as they are spelled there."""
        return frozenset().union(*(module.shared.refers_to for module in self.modules))

    @cached_property
    def modules_by_address(self) -> dict[str, list[ModuleFiles]]:
        """The modules by the names of the routers that they bring, and by the absolute addresses of their routes."""
        found: dict[str, list[ModuleFiles]] = {}
        for module in self.modules:
            routes = module.shared.routes
            claimed = {route.router for route in routes if not route.owner.extends}
            claimed |= {route.path("") for route in routes if route.rule.startswith("/")}
            for name in claimed:
                found.setdefault(name, []).append(module)
        return found

    @cached_property
    def configuration(self) -> IniFile:
        """The host's configuration."""
        return IniFile(self.root / CONFIGURATION, raw=True)

    @cached_property
    def search(self) -> Search:
        """How the interpreter was looked for."""
        python = self.data.section(PythonFacts)
        return find_interpreter(self._python, self.root, python.package, python.environments)

    @property
    def interpreter(self) -> Interpreter | None:
        """The interpreter that runs the host, or None."""
        return self.search.found

    @property
    def libraries(self) -> tuple[Path, ...]:
        """The library folders of the interpreter."""
        return self.interpreter.libraries if self.interpreter is not None else ()

    @cached_property
    def version(self) -> str:
        """The host's version; empty when it is not known."""
        found = self.interpreter.distribution_version("trytond") if self.interpreter is not None else None
        return found or ""

    @property
    def series(self) -> str:
        """The host's series, such as ``8.2``."""
        return ".".join(self.version.split(".")[:2])

    @cached_property
    def database_folder(self) -> Path | None:
        """The folder of the SQLite databases; None for another kind of database."""
        if self.database_copies is not None:
            return self.database_copies
        uri = self.configuration.text("database", "uri") or "sqlite://"
        said = self.configuration.text("database", "path")
        return Path(os.path.join(self.root, said)) if uri.startswith("sqlite") and said else None

    @cached_property
    def database_names(self) -> list[str]:
        """The names of the databases."""
        if self.database_folder is None or not self.database_folder.is_dir():
            return []
        return sorted(path.stem for path in self.database_folder.glob("*.sqlite"))

    @property
    def database_name(self) -> str:
        """The database that is worked on: the first by name; empty when there is none."""
        return next(iter(self.database_names), "")

    @cached_property
    def database(self) -> Database | None:
        """The database that is worked on, or None."""
        if self.database_folder is None or not self.database_name:
            return None
        return Database(self.database_folder / f"{self.database_name}.sqlite")

    @cached_property
    def module_roots(self) -> list[Path]:
        """The folders of the host from which modules are imported: those that hold modules or their metadata."""
        found = []
        environments = set(self.data.section(PythonFacts).environments)
        for folder in [self.root, *sorted(self.root.iterdir())]:
            if not folder.is_dir() or folder.name in _NOT_LOOKED_INTO | environments:
                continue
            try:
                names = os.listdir(folder)
            except OSError:
                continue
            if any(
                name.endswith((".dist-info", ".egg-info")) or (folder / name / MANIFEST).is_file() for name in names
            ):
                found.append(folder)
        return found or ([self.root / "modules"] if (self.root / "modules").is_dir() else [])

    @cached_property
    def import_path(self) -> list[Path]:
        """The folders in which the host looks for packages, those of the host itself first."""
        linked = [folder for library in self.libraries for folder in linked_folders(library)]
        return [*self.module_roots, *self.libraries, *linked]

    @cached_property
    def entries(self) -> list[EntryPoint]:
        """All entry points of modules on the import path."""
        return entry_points(self.import_path)

    def package_folder(self, dotted: str) -> Path | None:
        """Return the folder of a package on the import path, or None."""
        for root in self.import_path:
            folder = root.joinpath(*dotted.split("."))
            if folder.is_dir():
                return folder
        return None

    @cached_property
    def modules(self) -> list[ModuleFiles]:
        """The host's modules without its core, own ones first, each in the order of names."""
        by_name: dict[str, list[EntryPoint]] = {}
        for entry in self.entries:
            by_name.setdefault(entry.name, []).append(entry)
        found: dict[str, ModuleFiles] = {}
        taken: set[Path] = set()
        for name, entries in by_name.items():
            folder = next(filter(None, (self.package_folder(entry.package) for entry in entries)), None)
            if folder is None:
                folder = next((root / name for root in self.module_roots if (root / name).is_dir()), None)
            if folder is not None:
                found[name] = ModuleFiles(name, folder, entries, folder.is_relative_to(self.root))
                taken.add(folder)
        for root in self.module_roots:
            for folder in sorted(root.iterdir()):
                if folder not in taken and folder.name not in found and _looks_like_a_module(folder):
                    found[folder.name] = ModuleFiles(folder.name, folder, [], True)
        for library in self.libraries:  # without an entry point the host looks below its own package
            for folder in sorted((library / "trytond" / "modules").glob("*/")):
                if folder.name not in found and (folder / MANIFEST).is_file():
                    found[folder.name] = ModuleFiles(folder.name, folder, [], False)
        return sorted(found.values(), key=lambda one: (not one.own, one.name))

    @cached_property
    def core(self) -> list[ModuleFiles]:
        """The modules that every host has."""
        for library in self.libraries:
            if (library / "trytond").is_dir():
                return [ModuleFiles(name, library / "trytond" / name, [], False) for name in CORE]
        return []

    @cached_property
    def by_name(self) -> dict[str, ModuleFiles]:
        """Modules and core by their names."""
        return {one.name: one for one in [*self.core, *self.modules]}

    def module(self, name: str) -> ModuleFiles | None:
        """Return a module by its name, or None."""
        return self.by_name.get(name)

    def state(self, module: ModuleFiles) -> str:
        """Return the state of a module in the database; empty when it is not known there."""
        return self.database.states.get(module.name, "") if self.database is not None else ""

    def needed(self, name: str, seen: frozenset[str] = frozenset()) -> set[str]:
        """Return all modules that one needs, over any number of steps, without itself."""
        module = self.by_name.get(name)
        if module is None or name in seen:
            return set()
        found: set[str] = set()
        for item in module.depends:
            found |= {item.text} | self.needed(item.text, seen | {name})
        return found

    @cached_property
    def order(self) -> list[str]:
        """All modules that the host finds, with its core, in its load order."""
        there = {name for name, one in self.by_name.items() if one.manifest is not None}
        needs = {
            name: [item.text for item in one.depends if item.text in there]
            + [item.text for item in one.extras if item.text in there]
            for name, one in self.by_name.items()
            if name in there
        }
        return order_of(needs)


def _looks_like_a_module(folder: Path) -> bool:
    if not folder.is_dir() or folder.name.endswith((".dist-info", ".egg-info")) or folder.name in _NOT_LOOKED_INTO:
        return False
    from ....core.brief import BRIEF_FILE

    return (folder / MANIFEST).is_file() or (folder / BRIEF_FILE).is_file()
