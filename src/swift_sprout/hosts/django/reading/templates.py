"""The host's templates as its files show them: folders, tags, blocks, libraries, and the site's own layout."""

from __future__ import annotations

import ast
import os
import re
from functools import cached_property, lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ....disk.guard import read_content
from .entries import package_of

if TYPE_CHECKING:
    from ..view import HostView
    from .project import Project

LAYOUT_NAMES = ("base.html", "layout.html", "site_base.html")
TEMPLATE_ENDINGS = (".html", ".txt", ".xml", ".js", ".css", ".json", ".svg", ".md")
BLOCK_NAMES = ("content", "main", "body")
_TAG = re.compile(r"\{%-?\s*(\w+)\s*(.*?)\s*-?%\}|\{#.*?#\}", re.DOTALL)
_REGISTERED = re.compile(r"register\.(tag|simple_tag|inclusion_tag)\(.*\)\((\w+)\)\Z")
_QUOTED = re.compile(r"\"([^\"]*)\"|'([^']*)'")


class Tag(NamedTuple):
    """One tag of a template: its name, the rest of it, and its line."""

    name: str
    rest: str
    line: int

    @property
    def first_text(self) -> str | None:
        """Its first argument where that is a literal text."""
        found = _QUOTED.match(self.rest)
        return (found.group(1) or found.group(2)) if found else None


class TemplateFile(NamedTuple):
    """A template: the name that the host knows it by, its file, its owner (empty: the site's own folders), its tags."""

    name: str
    place: str
    owner: str
    tags: tuple[Tag, ...]

    @property
    def path(self) -> Path:
        """Its file; of most only the place is needed, spelled."""
        return Path(self.place)

    @property
    def extends(self) -> str | None:
        """The name of its layout where that is a literal text."""
        return next((tag.first_text for tag in self.tags if tag.name == "extends"), None)

    @property
    def blocks(self) -> dict[str, int]:
        """The blocks it has, each with its line."""
        return {tag.rest.split()[0]: tag.line for tag in self.tags if tag.name == "block" and tag.rest}


class Library(NamedTuple):
    """A tag library of a module: its file, the tags it registers with their lines, and whether it can be loaded."""

    name: str
    path: Path
    owner: str
    tags: dict[str, int]
    blocks: dict[str, int]
    registers: bool


#  many templates are alike, and what stands in several at the same line is kept once
_tag = lru_cache(maxsize=20_000)(Tag)


def files_below(folder: Path | str) -> list[str]:
    """Return the paths of all files below a folder, in order; none where there is no such folder."""
    return sorted(os.path.join(where, name) for where, _, names in os.walk(folder) for name in names)


def read_tags(path: Path | str) -> tuple[Tag, ...]:
    """Return the tags of a template in order; what stands in comments or ``verbatim`` is left out."""
    try:
        text = read_content(str(path)).decode("utf-8", "replace")
    except OSError:
        return ()
    tags: list[Tag] = []
    skipping = ""
    for found in _TAG.finditer(text):
        name = found.group(1)
        if skipping:
            skipping = "" if name == skipping else skipping
        elif name in ("comment", "verbatim"):
            skipping = f"end{name}"
        elif name:
            tags.append(_tag(name, found.group(2), text.count("\n", 0, found.start()) + 1))
    return tuple(tags)


def templates_in(folder: str, owner: str) -> list[TemplateFile]:
    """Return the templates below a folder that the host looks in."""
    return [
        TemplateFile(path[len(folder) + 1 :], path, owner, read_tags(path))
        for path in files_below(folder)
        if path.endswith(TEMPLATE_ENDINGS)
    ]


def read_library(project: Project, path: Path, owner: str) -> Library | None:
    """Return a tag library; None for a file that cannot be read."""
    source = project.parse(path)
    if source is None or source.tree is None:
        return None
    tags: dict[str, int] = {}
    blocks: dict[str, int] = {}
    registers = False
    for node in source.tree.body:
        if isinstance(node, ast.Assign | ast.AnnAssign):
            target = node.targets[0] if isinstance(node, ast.Assign) else node.target
            registers = registers or (isinstance(target, ast.Name) and target.id == "register")
        elif isinstance(node, ast.ImportFrom) and any((one.asname or one.name) == "register" for one in node.names):
            registers = True
        elif isinstance(node, ast.Expr) and isinstance(node.value, ast.Call):
            found = _REGISTERED.match(ast.unparse(node.value))
            if found:
                tags[found.group(2)] = node.lineno
                if found.group(1) == "inclusion_tag":
                    blocks[found.group(2)] = node.lineno
        elif isinstance(node, ast.FunctionDef):
            for decorator in node.decorator_list:
                text = ast.unparse(decorator)
                if ".inclusion_tag" in text:
                    blocks[node.name] = node.lineno
                if re.search(r"\.(tag|simple_tag|inclusion_tag|simple_block_tag)\b", text):
                    said = re.search(r"name=['\"](\w+)['\"]|\.tag\(['\"](\w+)['\"]", text)
                    tags[(said.group(1) or said.group(2)) if said else node.name] = node.lineno
    return Library(path.stem, path, owner, tags, blocks, registers)


class Templates:
    """All templates and tag libraries of a host's own folders, in the order in which the host looks."""

    def __init__(self, view: HostView) -> None:
        self.view = view

    @cached_property
    def all(self) -> list[TemplateFile]:
        """Every template: first the site's own folders, then those of the modules in the order of the host's list."""
        found = [one for folder in template_folders(self.view) for one in templates_in(str(folder), "")]
        listed = [package_of(entry.value) for entry in self.view.listed]
        order = {name: number for number, name in enumerate(listed)}
        for module in sorted(self.view.modules, key=lambda one: order.get(one.name, len(order))):
            found += module.templates
        return found

    @cached_property
    def _by_name(self) -> dict[str, TemplateFile]:
        return {one.name: one for one in reversed(self.all)}

    @cached_property
    def used_tags(self) -> dict[str, list[TemplateFile]]:
        """The templates that use each tag, by its name; a template stands there once for each use."""
        found: dict[str, list[TemplateFile]] = {}
        for template in self.all:
            for tag in template.tags:
                found.setdefault(tag.name, []).append(template)
        return found

    def using(self, tag: str) -> list[TemplateFile]:
        """Return the templates that use a tag, in the order in which the host looks."""
        return self.used_tags.get(tag, [])

    def named(self, name: str) -> TemplateFile | None:
        """Return the template that the host would take for a name, or None when none of the host's own has it."""
        return self._by_name.get(name)

    @cached_property
    def library_names(self) -> dict[str, Library]:
        """The libraries by name."""
        return {library.name: library for library in self.libraries}

    @cached_property
    def installed_libraries(self) -> dict[str, str]:
        """The libraries that packages beside the host bring, by name, each with its package; looked for when asked."""
        from glob import glob

        found: dict[str, str] = {}
        for folder in self.view.interpreter.libraries if self.view.interpreter is not None else ():
            for depth in ("*", "*/*", "*/*/*"):
                for path in sorted(glob(f"{folder}/{depth}/templatetags/*.py")):
                    package = os.path.relpath(os.path.dirname(os.path.dirname(path)), folder).replace(os.sep, ".")
                    found.setdefault(os.path.basename(path)[:-3], package)
        return found

    @cached_property
    def library_of_tag(self) -> dict[str, Library]:
        """The libraries by the tags that they bring."""
        return {tag: library for library in self.library_names.values() for tag in library.tags}

    @cached_property
    def libraries(self) -> list[Library]:
        """Every tag library of the modules."""
        return [library for module in self.view.modules for library in module.libraries]


def template_folders(view: HostView) -> list[Path]:
    """Return the folders that the settings name for templates, as far as they can be told."""
    engines = view.settings.plain("TEMPLATES", []) if view.settings else []
    folders: list[Path] = []
    for engine in engines if isinstance(engines, list) else []:
        listed = engine.get("DIRS", []) if isinstance(engine, dict) else []
        folders += [view.root / entry for entry in listed if isinstance(entry, str | Path)]
    return [folder for folder in folders if folder.is_dir()]


def site_layout(view: HostView) -> tuple[str, str]:
    """Return the name of the site's own layout and of its block for content; empty when it has none we can tell.

    Hosts that bring a layout for all modules have it in their kit, under ``[layout]``.
    """
    if "layout" in view.data.raw:
        return view.data.raw["layout"]["template"], view.data.raw["layout"]["block"]
    for folder in template_folders(view):
        for name in LAYOUT_NAMES:
            blocks = {tag.rest.split()[0] for tag in read_tags(folder / name) if tag.name == "block" and tag.rest}
            for block in BLOCK_NAMES:
                if block in blocks:
                    return name, block
    return "", ""
