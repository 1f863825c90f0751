"""The modules of a Django project: packages that carry what the host looks for, listed or not."""

from __future__ import annotations

import ast
import os
from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import tomli

from .....caching.listing import ENVIRONMENT_SIGN
from .....core.brief import BRIEF_FILE, Brief, brief_from_data
from .....core.errors import SproutError
from .....disk.guard import read_content
from .code import meta_text, spelled
from .project import SKIPPED_FOLDERS, Project

if TYPE_CHECKING:
    from .templates import Library, TemplateFile

SIGNS = ("apps.py", "models.py", "models", "migrations", "admin.py", "templatetags", "management", BRIEF_FILE)
CERTAIN_SIGNS = ("apps.py", "migrations", BRIEF_FILE)
WEAK_SIGNS = ("urls.py", "views.py", "views")
INNER_FOLDERS = frozenset({"tests", "management", "templatetags", "fixtures"})
DEEPEST = 5
VERY_MANY = 2000


class ConfigClass(NamedTuple):
    """A class of ``apps.py`` that describes the module, with its literals; ``line`` is that of the class."""

    name: str
    line: int
    values: dict[str, tuple[Any, int]]
    bases: tuple[str, ...]
    methods: tuple[str, ...]
    is_default: bool = False

    def text(self, key: str) -> str:
        """Return a text it sets, or an empty one."""
        value = self.values.get(key, ("", 0))[0]
        return value if isinstance(value, str) else ""

    @property
    def name_is_worked_out(self) -> bool:
        """True when it names its package by more than a text."""
        return "name" in self.values and not self.text("name")


#  what a module's own files tell and rules that compare modules ask for, by the names of the properties below
OWN_FACTS = ("configs", "tables", "templates", "libraries")


class ModuleFiles:
    """A module as its files tell it; each of them is read when something of it is first asked for.

    name   -- the dotted name under which the host imports it, place -- the folder where it lies, spelled
    listed -- the entries of the host's list, of which one may say which config class counts
    """

    def __init__(self, project: Project, name: str, place: str, listed: Sequence[str]) -> None:
        self.name = name
        self.place = place
        self._project = project
        self._listed = listed
        self.taken_in = ""

    @cached_property
    def configs(self) -> tuple[ConfigClass, ...]:
        """The classes of its apps.py that describe it."""
        return tuple(config_classes(self._project, f"{self.place}/apps.py")) if self.has("apps.py") else ()

    @cached_property
    def config(self) -> ConfigClass | None:
        """Its class in apps.py that counts."""
        return _chosen(self.configs, self.name, self._listed)

    @cached_property
    def label(self) -> str:
        """The short name by which the host tells it."""
        return (self.config.text("label") if self.config else "") or self.name.rpartition(".")[2]

    @cached_property
    def tables(self) -> set[str]:
        """The tables of its records, as far as its files tell them."""
        found: set[str] = set()
        for name in ("models.py", "models/__init__.py"):
            source = self._project.parse(f"{self.place}/{name}") if self.has(name) else None
            for node in source.tree.body if source is not None and source.tree is not None else ():
                if isinstance(node, ast.ClassDef):
                    said = meta_text(node, "db_table")
                    found.add(said.text if said else f"{self.label}_{node.name.lower()}")
        return found

    @cached_property
    def templates(self) -> list[TemplateFile]:
        """Its own templates."""
        from .templates import templates_in

        return templates_in(f"{self.place}/templates", self.name) if self.has("templates") else []

    @cached_property
    def libraries(self) -> list[Library]:
        """Its own tag libraries."""
        from .templates import read_library

        if not self.has("templatetags"):
            return []
        paths = [path for path in sorted((self.folder / "templatetags").glob("*.py")) if path.name != "__init__.py"]
        found = [read_library(self._project, path, self.name) for path in paths]
        return [library for library in found if library is not None]

    @cached_property
    def brief_file(self) -> Path:
        """Where its sprout.toml lies; most rules need it only for what they find."""
        return self.folder / BRIEF_FILE

    @cached_property
    def brief(self) -> dict[str, Any]:
        """The plain data of its sprout.toml; empty when it has none that can be read."""
        try:
            return tomli.loads(self.brief_text)
        except (ValueError, RecursionError):
            return {}

    @cached_property
    def brief_text(self) -> str:
        """The text of its sprout.toml; empty when it has none that can be read."""
        if not self.has(BRIEF_FILE):
            return ""
        try:
            return read_content(f"{self.place}/{BRIEF_FILE}").decode("utf-8")
        except (OSError, UnicodeDecodeError):
            return ""

    @cached_property
    def read(self) -> Brief | SproutError | None:
        """Its brief, read and checked: the error where it is wrong, None where there is none."""
        if not self.brief:
            return None
        try:
            return brief_from_data(self.brief, self.brief_text, self._project.relative(f"{self.place}/{BRIEF_FILE}"))
        except SproutError as error:
            return error

    @property
    def tells_paths(self) -> bool:
        """True for a module whose brief tells the whole paths of its pages, so that it stands at the root."""
        return bool(self.brief.get("page") or self.brief.get("staff_screen"))

    @property
    def _meta(self) -> dict[str, Any]:
        meta = self.brief.get("module", {})
        return meta if isinstance(meta, dict) else {}

    @property
    def title(self) -> str:
        """The name that people read, from its brief or its config class; empty when neither says one."""
        return str(self._meta.get("name") or (self.config.text("verbose_name") if self.config else ""))

    @cached_property
    def version(self) -> str:
        """Its version, from its brief or its package marker; empty when neither says one."""
        said = self._meta.get("version") or _literal(self._project, self.folder / "__init__.py", "__version__")
        return str(said or "")

    @cached_property
    def folder(self) -> Path:
        """The folder where it lies."""
        return Path(self.place)

    @cached_property
    def names(self) -> frozenset[str]:
        """The names of what lies in its folder, which many rules ask for; listed once."""
        return frozenset(_listing(self.place))

    def has(self, name: str) -> bool:
        """True when the module holds a file or folder of that name."""
        if "/" in name:
            return name.partition("/")[0] in self.names and os.path.exists(f"{self.place}/{name}")
        return name in self.names

    @property
    def urls(self) -> str:
        """The dotted name of its url configuration; empty when it has none.

        One of another name is known when the root addresses include it, or as the file that holds a list of patterns.
        """
        if self.has("urls.py") or self.has("urls/__init__.py"):
            return f"{self.name}.urls"
        if not self.taken_in:
            holding = (name for name in sorted(self.names) if name.endswith(".py") and self._holds_patterns(name))
            self.taken_in = next((f"{self.name}.{name.removesuffix('.py')}" for name in holding), "")
        if self.taken_in:
            return self.taken_in
        return f"{self.name}.apps" if self.config is not None and "get_urls" in self.config.methods else ""

    def _holds_patterns(self, name: str) -> bool:
        source = self._project.parse(f"{self.place}/{name}")
        return source is not None and source.mentions("\nurlpatterns =", "\nurlpatterns:")


def find_modules(project: Project, listed: Mapping[str, str], project_packages: Iterable[str]) -> list[ModuleFiles]:
    """Return every module below the host's folders, by name.

    listed           -- what the host's list of modules says, each entry with its package: to tell names, and to find
                        what carries no sign
    project_packages -- dotted packages that hold settings and root addresses and are no modules
    """
    root = str(project.root)
    roots = [f"{one}/" for one in project.import_roots]
    seen: dict[str, ModuleFiles] = {}
    skip = {root, *(str(folder) for name in project_packages if (folder := project.folder_of(name)) is not None)}
    packages = set(listed.values())
    for place, names in _packages(root):
        above, _, own = place.rpartition("/")
        named = own in packages
        if place in skip and not named and BRIEF_FILE not in names:
            continue
        if own in INNER_FOLDERS or (above in seen and own in ("commands", "models")):
            continue
        if names.isdisjoint(SIGNS) and names.isdisjoint(WEAK_SIGNS):
            continue
        if names.isdisjoint(CERTAIN_SIGNS) and not named and _lies_in(place, seen):
            if place[len(root) + 1 :].replace("/", ".") not in packages:
                continue  # a plain part of the module that it lies in
        if not names.isdisjoint(SIGNS) or "__init__.py" in names:
            seen[place] = ModuleFiles(project, _name_of(place, roots, packages), place, [*listed])
            seen[place].names = names
            if len(seen) == VERY_MANY:
                project.keep_few()
    for entry, package in listed.items():
        for dotted in dict.fromkeys((entry, package)):
            if f"{roots[0]}{dotted.replace('.', '/')}" in seen:
                continue  # where an import looks first, so that nothing else is it
            found = project.folder_of(dotted) if dotted else None
            if found is not None and str(found) not in seen:
                seen[str(found)] = ModuleFiles(project, _name_of(str(found), roots, packages), str(found), [*listed])
    modules: dict[str, ModuleFiles] = {}
    for module in seen.values():
        if module.name not in modules or project.folder_of(module.name) == module.folder:
            modules[module.name] = module
    return sorted(modules.values(), key=lambda module: module.name)


def _lies_in(place: str, folders: Container[str]) -> bool:
    """True when one of some folders lies above a place."""
    while place:
        place = place.rpartition("/")[0]
        if place in folders:
            return True
    return False


def _name_of(place: str, roots: Sequence[str], packages: set[str]) -> str:
    """Return the dotted name of a module from its folder; ``packages`` are those that the host's list names."""
    names = [place[len(root) :].replace("/", ".") for root in roots if place.startswith(root)]
    names = names or [place.rpartition("/")[2]]
    return next((one for one in names if one in packages), min(names, key=len))


def config_classes(project: Project, path: str) -> Iterator[ConfigClass]:
    """Yield the classes of an ``apps.py`` that set a name."""
    source = project.parse(path)
    if source is None or source.tree is None:
        return
    for node in source.tree.body:
        if not isinstance(node, ast.ClassDef):
            continue
        values: dict[str, tuple[Any, int]] = {}
        for statement in node.body:
            if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                values[statement.targets[0].id] = (_constant(statement.value), statement.lineno)
        bases = [spelled(base) for base in node.bases]
        if "name" in values or any(base.endswith("Config") for base in bases):
            methods = tuple(one.name for one in node.body if isinstance(one, ast.FunctionDef))
            default = values.get("default", (False, 0))[0] is True
            yield ConfigClass(node.name, node.lineno, values, tuple(bases), methods, default)


def _chosen(configs: tuple[ConfigClass, ...], name: str, listed: Sequence[str]) -> ConfigClass | None:
    """The class that the host would take: the listed one, the only one, or the one marked as default."""
    if len(configs) == 1:
        return configs[0]
    for config in configs:
        if f"{name}.apps.{config.name}" in listed:
            return config
    return next((config for config in configs if config.is_default), None)


def _packages(place: str, depth: int = 0) -> Iterator[tuple[str, frozenset[str]]]:
    """Yield folders that may be packages, each with the names in it: the host's own first, then what lies below."""
    try:
        with os.scandir(place) as told:
            entries = list(told)
    except OSError:
        entries = []
    names = frozenset([entry.name for entry in entries])
    if depth and (ENVIRONMENT_SIGN in names or not (place.rpartition("/")[2].isidentifier() or "apps.py" in names)):
        return
    yield place, names
    if depth < DEEPEST:
        usual = [entry for entry in entries if entry.name not in SKIPPED_FOLDERS and entry.name[0] != "."]
        for path in sorted([entry.path for entry in usual if entry.is_dir()]):
            yield from _packages(path, depth + 1)


def _listing(folder: str) -> list[str]:
    try:
        return os.listdir(folder)
    except OSError:
        return []


def _constant(node: ast.expr) -> Any:
    if isinstance(node, ast.Constant):
        return node.value
    if isinstance(node, ast.Call) and len(node.args) == 1 and isinstance(node.args[0], ast.Constant):
        return node.args[0].value  # a text in the translation wrapper
    return None


def _literal(project: Project, path: Path, name: str) -> str:
    source = project.parse(path)
    if source is None or source.tree is None:
        return ""
    for node in source.tree.body:
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name) and node.targets[0].id == name:
            value = _constant(node.value)
            return value if isinstance(value, str) else ""
    return ""
