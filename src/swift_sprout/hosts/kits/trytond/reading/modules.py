"""The modules of a host: found over entry points, or lying where they would be found."""

from __future__ import annotations

import ast
import os
from collections.abc import Iterable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from .code import CodeFile
from .datafile import DataFile, ViewFile
from .entrypoints import EntryPoint
from .inifile import IniFile, Item
from .registering import ByFunction, Registered, by_function, in_manifest

if TYPE_CHECKING:
    from .code import CodeClass
    from .datafile import DataRecord
    from .routes import Route
    from .shared import Shared

MANIFEST = "tryton.cfg"
CORE = ("ir", "res")


class ModuleFiles:
    """One module's files; everything is read when it is asked for, once.

    entries -- the entry points that name it; none when the host cannot find it
    own     -- True when it lies below the host's folder
    """

    def __init__(self, name: str, folder: Path, entries: Iterable[EntryPoint], own: bool) -> None:
        self.name = name
        self.folder = folder
        self.entries = list(entries)
        self.own = own
        self._views: dict[str, ViewFile] = {}
        self.routes: list[Route] | None = None

    def has(self, path: str) -> bool:
        """True when the module has a file."""
        return (self.folder / path).is_file()

    @property
    def newest(self) -> float:
        """When the last of its files was written that the host takes into its database; seconds since the epoch."""
        kinds = (".py", ".xml", ".cfg", ".po")
        return max((path.stat().st_mtime for path in self.folder.rglob("*.*") if path.suffix in kinds), default=0.0)

    @cached_property
    def manifest(self) -> IniFile | None:
        """The module's ``tryton.cfg``; None when it is not there."""
        path = self.folder / MANIFEST
        return IniFile(path) if path.is_file() else None

    def _listed(self, section: str, option: str) -> list[Item]:
        return self.manifest.lines(section, option) if self.manifest is not None else []

    @cached_property
    def depends(self) -> list[Item]:
        """The modules that it needs, as the manifest says."""
        return self._listed("tryton", "depends")

    @cached_property
    def extras(self) -> list[Item]:
        """The modules that it uses where they are there."""
        return self._listed("tryton", "extras_depend")

    @property
    def version(self) -> str:
        """The version that the manifest says."""
        return self.manifest.text("tryton", "version") if self.manifest is not None else ""

    @cached_property
    def title(self) -> str:
        """The module's name for people: of its brief, or made of its name."""
        from .....core.brief import BRIEF_FILE

        path = self.folder / BRIEF_FILE
        if path.is_file():
            import tomli

            try:
                said = tomli.loads(path.read_text("utf-8")).get("module", {})
                if isinstance(said, dict) and isinstance(said.get("name"), str):
                    return str(said["name"])
            except (OSError, ValueError, RecursionError):
                pass
        return self.name.replace("_", " ").capitalize()

    def data_items(self) -> list[tuple[Item, str]]:
        """Return the data files in the order of loading, those of included folders behind: the line, and the path."""
        found: list[tuple[Item, str]] = []
        waiting = [("", self.manifest)]
        while waiting:
            folder, manifest = waiting.pop(0)
            if manifest is None:
                continue
            found += [(item, f"{folder}{item.text}") for item in manifest.lines("tryton", "xml")]
            for item in manifest.lines("tryton", "include_dirs"):
                path = self.folder / folder / item.text / MANIFEST
                if path.is_file():
                    waiting.append((f"{folder}{item.text}/", IniFile(path)))
        return found

    @cached_property
    def data_files(self) -> list[DataFile]:
        """The data files that are listed and there, in the order of loading."""
        paths = [self.folder / path for _, path in self.data_items()]
        return [DataFile(path) for path in dict.fromkeys(paths) if path.is_file()]

    @cached_property
    def records(self) -> list[DataRecord]:
        """All records of the data files, in the order of loading."""
        return [record for file in self.data_files for record in file.records]

    @cached_property
    def menu_root(self) -> str:
        """The id of its first entry at the top of the host's menu that was written by hand; empty for none."""
        tops = [record for record in self.records if record.menuitem and not record.ref("parent")]
        if any(record.path.name == "menu.xml" for record in tops):
            return ""
        return tops[0].id if tops else ""

    @cached_property
    def ids(self) -> dict[str, DataRecord]:
        """The first record of each id."""
        found: dict[str, DataRecord] = {}
        for record in self.records:
            found.setdefault(record.id, record)
        return found

    def view_file(self, name: str) -> ViewFile | None:
        """Return a view's file by the name that a record says, or None."""
        path = self.folder / "view" / f"{name}.xml"
        if name not in self._views:
            if not path.is_file():
                return None
            self._views[name] = ViewFile(path)
        return self._views[name]

    @cached_property
    def code_files(self) -> list[CodeFile]:
        """The module's Python files, those of its tests left out."""
        found = []
        for where, folders, names in os.walk(self.folder):
            folders[:] = sorted(name for name in folders if name not in ("__pycache__", "tests", "locale", "view"))
            if where != str(self.folder) and MANIFEST in names and "__init__.py" in names and not self._includes(where):
                folders[:] = []
                continue
            found += [CodeFile(Path(where, name)) for name in sorted(names) if name.endswith(".py")]
        return found

    def _includes(self, where: str) -> bool:
        return any(str(self.folder / item.text) == where for item in self._listed("tryton", "include_dirs"))

    def code_file(self, dotted: str) -> CodeFile | None:
        """Return the file of a dotted name below the module, or None."""
        stem = "/".join([str(self.folder), *filter(None, dotted.split("."))])
        known = self._code_by_path
        return (known.get(f"{stem}.py") if dotted else None) or known.get(f"{stem}/__init__.py")

    @cached_property
    def _code_by_path(self) -> dict[str, CodeFile]:
        return {str(file.path): file for file in self.code_files}

    @cached_property
    def classes(self) -> list[CodeClass]:
        """All classes of the module's files that are, or look like, classes of the host."""
        return [
            one for file in self.code_files for one in file.classes.values() if one.model or one.extends or one.sort
        ]

    @cached_property
    def shared(self) -> Shared:
        """What it tells the rules for other modules."""
        from .shared import shared_of

        return shared_of(self)

    @cached_property
    def by_function(self) -> ByFunction | None:
        """What its function ``register`` registers; None where it has none."""
        return by_function(self.code_file(""))

    @cached_property
    def registered(self) -> list[Registered]:
        """What it registers, in the manifest or by its function."""
        found: list[Registered] = []
        waiting = [("", self.manifest)]
        while waiting:
            folder, manifest = waiting.pop(0)
            if manifest is None:
                continue
            found += in_manifest(manifest, folder.replace("/", "."))
            for item in manifest.lines("tryton", "include_dirs"):
                path = self.folder / folder / item.text / MANIFEST
                if path.is_file():
                    waiting.append((f"{folder}{item.text}/", IniFile(path)))
        return [*found, *(self.by_function.classes if self.by_function is not None else ())]

    def registered_class(self, dotted: str) -> CodeClass | None:
        """Return the class that a registered name means, followed over imports inside the module; or None."""
        file_name, _, name = dotted.rpartition(".")
        for _step in range(5):
            file = self.code_file(file_name)
            if file is None:
                return None
            if name in file.classes:
                return file.classes[name]
            source = file.imported.get(name, "")
            if not source.startswith("."):
                return None
            module, _, other = source.partition(":")
            level = len(module) - len(module.lstrip("."))
            parts = file_name.split(".") if file_name else []
            if file.path.name != "__init__.py":
                parts = parts[:-1]
            parts = parts[: len(parts) - (level - 1)] if level > 1 else parts
            file_name = ".".join([*parts, *filter(None, module.lstrip(".").split("."))])
            name = other
        return None

    def made_by_code(self, said: Registered) -> bool:
        """True for a registered name that stands for no class of the module: a call, or another package, makes it."""
        file_name, _, name = said.text.rpartition(".")
        file = self.code_file(file_name)
        if file is None or file.tree is None or self.registered_class(said.text) is not None:
            return False
        return name in file.imported or any(
            isinstance(node, ast.Name) and node.id == name and isinstance(node.ctx, ast.Store)
            for node in ast.walk(file.tree)
        )


def order_of(modules: dict[str, list[str]]) -> list[str]:
    """Return module names in the host's load order: by how far each lies behind what it needs, then by name.

    modules -- what each needs; needs that are not among them count as lying at the beginning

    Source: ``trytond.modules.Graph`` of 8.2. Names in a circle keep the depth at which the circle was met.
    """
    depths: dict[str, int] = {}

    def depth(name: str, trail: tuple[str, ...]) -> int:
        if name in depths:
            return depths[name]
        if name in trail:
            return 0
        found = max((depth(need, (*trail, name)) + 1 for need in modules.get(name, ())), default=0)
        depths[name] = found
        return found

    return sorted(modules, key=lambda name: (depth(name, ()), name))
