"""The host's templates as its files show them: whose they are, their blocks, and the libraries of tags."""

from __future__ import annotations

import ast
import os
import re
from functools import cached_property
from glob import glob
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from .....disk.guard import read_content
from .engines import template_engines
from .layouts import template_folders
from .tags import Tag, tags_in

if TYPE_CHECKING:
    from ..view import HostView
    from .project import Project

TEMPLATE_ENDINGS = (".html", ".txt", ".xml", ".js", ".css", ".json", ".svg", ".md")
_REGISTERED = re.compile(r"register\.(tag|simple_tag|inclusion_tag)\(.*\)\((\w+)\)\Z")


class TemplateFile(NamedTuple):
    """A template: the name that the host knows it by, its file, its owner (empty: the site's own folders), its tags.

    marked -- the line at which a merge has left its marks; 0 for none
    unread -- the line at which it is no UTF-8, the one encoding that the host reads; 0 for none
    rights -- what it asks whether the person holds, each with its line
    """

    name: str
    place: str
    owner: str
    tags: tuple[Tag, ...]
    marked: int = 0
    unread: int = 0
    rights: tuple[tuple[str, int], ...] = ()

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


def files_below(folder: Path | str) -> list[str]:
    """Return the paths of all files below a folder, in order; none where there is no such folder."""
    found: list[str] = []
    waiting = [str(folder)]
    while waiting:
        try:
            with os.scandir(waiting.pop()) as entries:
                for entry in entries:
                    if not entry.is_dir():
                        found.append(entry.path)
                    elif not entry.is_symlink():
                        waiting.append(entry.path)
        except OSError:
            continue
    return sorted(found)


def templates_in(folder: str, owner: str) -> list[TemplateFile]:
    """Return the templates below a folder that the host looks in."""
    return [
        _template(path, path[len(folder) + 1 :], owner)
        for path in files_below(folder)
        if path.endswith(TEMPLATE_ENDINGS)
    ]


def _template(path: str, name: str, owner: str) -> TemplateFile:
    try:
        content = read_content(path)
    except OSError:
        return TemplateFile(name, path, owner, ())
    unread = 0
    try:
        text = content.decode("utf-8")
    except UnicodeDecodeError as error:
        text, unread = content.decode("utf-8", "replace"), content[: error.start].count(b"\n") + 1
    return TemplateFile(name, path, owner, tags_in(text), marked_line(content), unread, _rights_in(text))


_RIGHT = re.compile(r"\bperms\.(\w+\.\w+)")


def _rights_in(text: str) -> tuple[tuple[str, int], ...]:
    found = _RIGHT.finditer(text) if "perms." in text else ()
    return tuple((one[1], text.count("\n", 0, one.start()) + 1) for one in found)


def marked_line(content: bytes) -> int:
    """Return the line of a file at which the marks begin that a merge has left in it; 0 for none."""
    if b"<<<<<<< " in content and b"\n>>>>>>> " in content:
        at = (b"\n" + content).find(b"\n<<<<<<< ")
        return content.count(b"\n", 0, at) + 1 if at >= 0 else 0
    return 0


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
        listed = [self.view.app_of(entry.value) for entry in self.view.listed]
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

    def layout(self, name: str) -> TemplateFile | None:
        """Return the template of a name, also where only a package that the host lists has it."""
        return self.named(name) or self._in_packages(name)

    def replaces_package(self, name: str) -> bool:
        """True for a name under which a package that the host lists has a template: whatever draws that draws ours."""
        return self._in_packages(name) is not None

    @cached_property
    def own_spaces(self) -> frozenset[str]:
        """The folders under which templates of the host's own modules stand by custom: their labels and names."""
        return frozenset(part for module in self.view.modules for part in (module.label, module.folder.name))

    def asked_for(self, name: str) -> bool:
        """True when another template extends or includes one by its name."""
        return any(tag.whole_text == name for one in self.all for tag in one.tags if tag.name in ("extends", "include"))

    @cached_property
    def folders_absent(self) -> list[Path]:
        """The folders that the settings name for templates, and that are not there."""
        engines = template_engines(self.view.settings)
        places = [self.view.root / folder for engine in engines for folder in engine.folders]
        return [place for place in places if not place.is_dir()]

    def above(self, template: TemplateFile) -> TemplateFile | None:
        """Return what a template extends; of its own name it is the next one that the host would find."""
        if template.extends != template.name:
            return self.layout(template.extends) if template.extends is not None else None
        same = [one for one in self.all if one.name == template.name]
        behind = same[same.index(template) + 1 :] if template in same else []
        return behind[0] if behind else self._in_packages(template.name)

    def blocks_above(self, template: TemplateFile) -> set[str] | None:
        """Return all blocks of the chain that a template extends; None when it leads to one that is not found."""
        known: set[str] = set()
        seen = {template.place}
        while any(tag.name == "extends" for tag in template.tags):
            layout = self.above(template)
            if layout is None or layout.place in seen:
                return None
            seen.add(layout.place)
            known |= set(layout.blocks)
            template = layout
        return known

    def _in_packages(self, name: str) -> TemplateFile | None:
        if name not in self._of_packages:
            there = (f"{folder}/{name}" for folder in self.package_folders if os.path.isfile(f"{folder}/{name}"))
            place = next(there, None)
            self._of_packages[name] = _template(place, name, "") if place is not None else None
        return self._of_packages[name]

    @cached_property
    def _of_packages(self) -> dict[str, TemplateFile | None]:
        return {}

    @cached_property
    def package_folders(self) -> list[str]:
        """The template folders of packages that the host lists and that do not lie in its own folders.

        An entry may name a config class that lies deeper than the package that it describes: those above count as well.
        """
        interpreter = self.view.interpreter
        apps: dict[str, None] = {}
        for entry in self.view.listed:
            app = self.view.app_of(entry.value)
            while app:
                apps[app.replace(".", "/")] = None
                app = app.rpartition(".")[0]
        places = (f"{one}/{app}/templates" for one in (interpreter.libraries if interpreter else ()) for app in apps)
        return [place for place in places if os.path.isdir(place)]

    @cached_property
    def folders_told(self) -> bool:
        """True when the settings tell all folders of templates beside those of modules."""
        engines = template_engines(self.view.settings)
        return bool(engines) and all(engine.sure for engine in engines)

    @cached_property
    def sure(self) -> bool:
        """True when every folder of templates can be told: list of modules, engines, and each package's place."""
        engines = template_engines(self.view.settings)
        if not self.view.list_is_sure or len(engines) != 1:
            return False
        if not engines[0].sure or engines[0].loaders or not engines[0].app_dirs:
            return False
        interpreter = self.view.interpreter
        return interpreter is not None and all(
            self.view.module(app) is not None or interpreter.has(app.partition(".")[0])
            for app in (self.view.app_of(entry.value) for entry in self.view.listed)
        )

    @cached_property
    def library_names(self) -> dict[str, Library]:
        """The libraries by name; of those with one name, that of a module which is listed."""
        listed = {self.view.app_of(entry.value) for entry in self.view.listed}
        return {library.name: library for library in sorted(self.libraries, key=lambda one: one.owner in listed)}

    @cached_property
    def libraries_off(self) -> frozenset[str]:
        """The names of libraries whose modules the host's list does not name."""
        listed = {self.view.app_of(entry.value) for entry in self.view.listed}
        return frozenset(name for name, library in self.library_names.items() if library.owner not in listed)

    @cached_property
    def installed_libraries(self) -> dict[str, str]:
        """The libraries that packages beside the host bring, by name, each with its package; looked for when asked."""
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
