"""The modules of a Flask site: packages and files that make a blueprint, wherever in the site they lie."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

from .entry import Entry, dotted_of, source_roots

_NOT_MODULES = frozenset(
    {"tests", "templates", "static", "instance", "__pycache__", "data", "migrations", "node_modules"}
)
_MAKES = re.compile(r"\bBlueprint\(")
#  folders in which projects keep several modules, each a file
_OF_FILES = frozenset(
    {"routes", "blueprints", "views", "controllers", "api", "apis", "endpoints", "modules", "resources"}
)
_DEEPEST = 4


class Place(NamedTuple):
    """A module: its name as it is imported, and its folder, or its file where that is all of it."""

    name: str
    path: Path

    @property
    def label(self) -> str:
        """The last part of its name."""
        return self.name.rpartition(".")[2]

    @property
    def is_file(self) -> bool:
        """True for a module that is one file."""
        return self.path.suffix == ".py"

    @property
    def folder(self) -> Path:
        """The folder in which its files lie."""
        return self.path.parent if self.is_file else self.path

    @property
    def marker(self) -> Path:
        """The file that is loaded when it is imported."""
        return self.path if self.is_file else self.path / "__init__.py"

    def code(self) -> list[Path]:
        """Return its Python files that lie directly in its folder."""
        return [self.path] if self.is_file else sorted(self.path.glob("*.py"))

    def all_code(self) -> list[Path]:
        """Return all of its Python files."""
        return [self.path] if self.is_file else sorted(self.path.rglob("*.py"))

    def within(self, pattern: str) -> list[Path]:
        """Return what lies in its folder; nothing for one that is a file, which shares its folder with others."""
        return [] if self.is_file else sorted(self.path.glob(pattern))

    def holds(self, path: Path) -> bool:
        """True for a file that is the module's own."""
        return path == self.path or path.is_relative_to(self.path)


class Places:
    """All modules of a site, by name."""

    def __init__(self, root: Path, entry: Entry | None, registered: Iterable[str] = ()) -> None:
        self.root = root
        self.entry = entry
        found = {place.name: place for base in source_roots(root) for place in self._in(base, 0)}
        for package in registered:
            name = package.partition(".")[0]
            folder = root / name
            if (
                not any(is_part(package, known) for known in found)
                and folder.is_dir()
                and folder != self.application_folder
            ):
                found[name] = Place(name, folder)
        self.by_name = dict(sorted(found.items()))

    @cached_property
    def application_folder(self) -> Path | None:
        """The package in which the application is made; None where that is a file at the top."""
        builder = self.entry.builder if self.entry is not None else None
        for base in reversed(source_roots(self.root)):
            if builder is not None and builder.is_relative_to(base) and builder.parent != base:
                return base / builder.relative_to(base).parts[0]
        return None

    def owner(self, dotted: str) -> str:
        """Return the module that a part of the site belongs to by its name; empty for none."""
        return max((name for name in self.by_name if is_part(dotted, name)), key=len, default="")

    def _in(self, folder: Path, depth: int) -> Iterator[Place]:
        """Yield the modules in a folder: of the site's own top, or of the application's package."""
        loaded = {self.entry.file, self.entry.builder} if self.entry is not None else set()
        for path in (one for one in sorted(folder.glob("*.py")) if one.is_file()):
            if path.name != "__init__.py" and path not in loaded and _makes_blueprint(path):
                yield Place(dotted_of(self.root, path), path)
        for inner in sorted(folder.iterdir()):
            if not inner.is_dir() or inner.name in _NOT_MODULES or inner.name.startswith(".") or depth >= _DEEPEST:
                continue
            if (inner / "pyvenv.cfg").exists() or inner in source_roots(self.root):
                continue
            if inner == self.application_folder:
                yield from self._in(inner, depth + 1)
                continue
            making = [path for path in sorted(inner.glob("*.py")) if path.is_file() and _makes_blueprint(path)]
            one_by_one = len(making) > 1 and inner.name in _OF_FILES and (inner / "__init__.py") not in making
            if (making and not one_by_one) or (inner / "sprout.toml").is_file():
                yield Place(dotted_of(self.root, inner), inner)
            elif one_by_one or depth:
                yield from self._in(inner, depth + 1)


def is_part(dotted: str, name: str) -> bool:
    """True for a module's own name, and for what lies in it."""
    return dotted == name or dotted.startswith(f"{name}.")


def _makes_blueprint(path: Path) -> bool:
    return _MAKES.search(path.read_text("utf-8", "replace")) is not None
