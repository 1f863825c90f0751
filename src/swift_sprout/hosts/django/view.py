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
    from .reading.servers import RunningServer
    from .reading.settings import Entry, Settings
    from .reading.templates import Templates


class HostView:
    """What reading alone tells about a host; nothing here runs anything."""

    def __init__(self, root: Path, data: KitData, python: str | None = None) -> None:
        self.root = root
        self.data = data
        self._python = python
        #  in a sandbox: the folder with the copies of the databases, which stand for the real ones
        self.database_copies: Path | None = None

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

    @cached_property
    def templates(self) -> Templates:
        """The templates and tag libraries of the host's own folders."""
        from .reading.templates import Templates

        return Templates(self)

    @cached_property
    def doubles(self) -> dict[str, list[Path]]:
        """Folders that are hidden on the import path by another of the same name, by module."""
        found: dict[str, list[Path]] = {}
        for module in self.modules:
            for root in self.project.import_roots:
                folder = root.joinpath(*module.name.split("."))
                if folder != module.folder and (folder / "__init__.py").exists():
                    found.setdefault(module.name, []).append(folder)
        return found

    @cached_property
    def servers(self) -> list[RunningServer]:
        """Servers of this host that run on this machine and do not reload by themselves."""
        from .reading.servers import running_servers

        return running_servers(self.root)

    def position(self, module: ModuleFiles) -> int | None:
        """Return where in the host's list a module stands, or None."""
        entry = self.entry_of(module)
        return self.listed.index(entry) if entry is not None else None

    def tables(self, module: ModuleFiles) -> set[str]:
        """Return the tables of a module's records, as far as its files tell them."""
        from .reading.code import meta_text

        found: set[str] = set()
        for name in ("models.py", "models/__init__.py"):
            source = self.project.parse(module.folder / name)
            for node in source.tree.body if source is not None and source.tree is not None else ():
                if type(node).__name__ == "ClassDef":
                    said = meta_text(node, "db_table")  # type: ignore[arg-type]
                    found.add(said.text if said else f"{module.label}_{node.name.lower()}")  # type: ignore[attr-defined]
        return found

    def permissions(self, label: str) -> set[str] | None:
        """Return the permissions that the module of a label brings; None when its files leave a doubt."""
        from .reading.code import permissions_declared

        module = next((one for one in self.modules if one.label == label), None)
        if module is None or module.has("models/__init__.py"):
            return None
        source = self.project.parse(module.folder / "models.py")
        if source is None:
            return set()
        return permissions_declared(source.tree, label) if source.tree is not None else None

    def relative(self, path: Path) -> str:
        """Spell a path from the host's root."""
        return self.project.relative(path)
