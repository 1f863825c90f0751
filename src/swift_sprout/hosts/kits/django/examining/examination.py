"""What is known of one module while it is examined: its files, its host, and what the running host answered."""

from __future__ import annotations

import ast
import os
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    import ast
    from collections.abc import Iterator

    from .....core.findings import Finding
    from ..answers import Live, PageRequest
    from ..reading.addresses import Address
    from ..reading.modules import ModuleFiles
    from ..reading.project import Source
    from ..view import HostView


NO_CODE = frozenset({"__pycache__", "tests", "templates", "static"})


class Examination:
    """One module under examination; ``live`` is None when only files are read."""

    def __init__(self, view: HostView, module: ModuleFiles, live: Live | None = None) -> None:
        self.view = view
        self.module = module
        self.live = live

    @property
    def host_answers(self) -> bool:
        """True where the running host was asked and answered: else files alone tell, and some doubts stay."""
        return self.live is not None and not self.live.failure

    def find(self, code: str, file: Path | str = "", line: int = 0, **values: object) -> Finding:
        """Make a finding of one of the kit's rules."""
        place = file if isinstance(file, str) else self.view.relative(file)
        values.setdefault("package", self.module.name)
        values.setdefault("label", self.module.label)
        values.setdefault("place", f"{place}:{line}" if line else place)
        return self.view.data.rules.finding(code, self.module.name, place, line, **values)

    @cached_property
    def sources(self) -> list[Source]:
        """The module's Python files, parsed; those of its tests left out."""
        return self.sources_of(self.module)

    def sources_of(self, module: ModuleFiles) -> list[Source]:
        """Return a module's Python files, parsed; those of its tests left out."""
        parsed = (self.view.project.parse(place) for place in self._code_in(module.place))
        return [source for source in parsed if source is not None]

    @property
    def sources_read(self) -> list[Source]:
        """Those of them that were read so far."""
        read: list[Source] = self.__dict__.get("sources", [])
        return read

    def _code_in(self, folder: str) -> list[str]:
        """Return the Python files in a folder and below, in order; what lies in another module is examined there."""
        try:
            with os.scandir(folder) as told:
                entries = list(told)
        except OSError:
            return []
        found: list[str] = []
        below: list[str] = []
        for entry in entries:
            name = entry.name
            if name.endswith(".py") and not name.startswith("test") and not entry.is_dir():
                found.append(entry.path)
            elif name not in NO_CODE and entry.is_dir(follow_symlinks=False):
                below.append(entry.path)
        found.sort()
        for place in sorted(below):
            if place not in self.view.module_folders:
                found += self._code_in(place)
        return found

    @cached_property
    def migrations(self) -> list[str]:
        """The names of the module's migrations, in order."""
        return [name[:-3] for name in self.in_migrations if name.endswith(".py") and not name.startswith("_")]

    @cached_property
    def in_migrations(self) -> list[str]:
        """The names in the module's folder of migrations, in order; none where it has none."""
        try:
            return sorted(os.listdir(f"{self.module.place}/migrations")) if self.module.has("migrations") else []
        except OSError:
            return []

    @cached_property
    def addresses(self) -> list[Address]:
        """The addresses of the whole site that end in the module's own controllers, as the files say."""
        return self.view.addresses_by_module.get(self.module.name, [])

    @cached_property
    def included(self) -> bool:
        """True when the root addresses include the module's, as the files say."""
        return bool(
            self.module.urls
            and self.view.root_urls
            and self.view.addresses.including(self.module.urls, self.view.root_urls)
        )

    def dotted(self, path: Path | str) -> str:
        """Return the dotted name under which a file of the module is imported; its path may be spelled."""
        below = str(path).removeprefix(f"{self.module.place}/").removesuffix(".py").removesuffix("__init__").rstrip("/")
        return ".".join([self.module.name, *filter(None, below.split("/"))])

    @cached_property
    def loaded(self) -> list[Source]:
        """The module's files that the host is sure to load: those it looks for by name, and what they import."""
        from ..reading.code import imports_of, relative_to

        by_name = {self.dotted(source.place): source for source in self.sources}
        base = self.module.name
        waiting = [base, *(f"{base}.{name}" for name in ("apps", "models", "admin", "urls")), self.module.urls]
        waiting += [name for name in by_name if name.startswith((f"{base}.templatetags.", f"{base}.urls."))]
        found: dict[str, Source] = {}
        while waiting:
            name = waiting.pop()
            source = by_name.get(name)
            if source is None or name in found:
                continue
            found[name] = source
            package = name if source.name == "__init__.py" else name.rpartition(".")[0]
            for each in imports_of(source.tree) if source.tree is not None else ():
                target = relative_to(each.module, package)
                if not each.soft and target.startswith(base):
                    waiting += [target, *(f"{target}.{part}" for part in each.names)]
        return list(found.values())

    def owns(self, dotted: str) -> bool:
        """True when a dotted name lies in the module."""
        return dotted == self.module.name or dotted.startswith(self.module.name + ".")

    @cached_property
    def registered_as(self) -> dict[str, Any] | None:
        """The module's entry in the running host's registry."""
        return self.live.registry_by_name.get(self.module.name) if self.live else None

    @property
    def routes(self) -> list[dict[str, Any]]:
        """The routes of the running host's address table that end in the module's own controllers."""
        return self.live.routes_by_module.get(self.module.name, []) if self.live else []

    @property
    def asked(self) -> list[PageRequest]:
        """The requests made for the module's pages."""
        return self.live.asked.get(self.module.name, []) if self.live else []

    @cached_property
    def _model_classes(self) -> list[tuple[Path, ast.ClassDef]]:
        return list(self._find_model_classes())

    def model_classes(self) -> Iterator[tuple[Path, ast.ClassDef]]:
        """Yield the classes of the module's models files that look like models."""
        yield from self._model_classes

    def _find_model_classes(self) -> Iterator[tuple[Path, ast.ClassDef]]:
        from ..reading.code import spelled

        plain, inside = f"{self.module.place}/models.py", f"{self.module.place}/models/"
        classes = [
            (source.path, node, [spelled(base).rpartition(".")[2] for base in node.bases])
            for source in self.sources
            if source.tree is not None and (source.place == plain or source.place.startswith(inside))
            for node in source.tree.body
            if isinstance(node, ast.ClassDef)
        ]
        names, known = {""}, 0
        while known != len(names):  # until no further class derives from one of them
            known = len(names)
            names |= {node.name for _, node, bases in classes if any(_is_model(one, names) for one in bases)}
        yield from ((path, node) for path, node, _ in classes if node.name in names)


def _is_model(base: str, known: set[str]) -> bool:
    return base.endswith("Model") or base in known
