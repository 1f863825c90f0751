"""One Django host as its files show it: project, settings, addresses, modules, interpreter; each read once."""

from __future__ import annotations

import ast
import os
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from ....running.interpreter import find_interpreter
from ...python.interpreter import PythonFacts
from ...shared.viewed import work_out
from .facts import django
from .reading.entries import app_of

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from ....core.findings import Finding
    from ....running.interpreter import Interpreter, Search
    from ....running.servers import RunningServer
    from ...contract.kitdata import KitData
    from ...python.undefined import Undefined
    from .answers import Live
    from .examining.examination import Examination
    from .reading.addresses import Address, Addresses, Route
    from .reading.claims import Claims
    from .reading.drawing import Drawing
    from .reading.modules import ModuleFiles
    from .reading.project import Project
    from .reading.settings import Entry, Settings
    from .reading.templates import Templates

    FurtherRule = Callable[[Examination], Iterator[Finding]]
    Standing = Callable[[Examination], Iterator[str]]


class FurtherRules(NamedTuple):
    """What a kit that builds on this one asks beside it.

    static -- rules that files alone answer
    live -- rules that the running host answers
    standing -- tell what of a module stands in the running host, each in a few words
    of_host -- rules about what is no module's, which files alone answer
    live_of_host -- those that the running host answers
    """

    static: Sequence[FurtherRule] = ()
    live: Sequence[FurtherRule] = ()
    standing: Sequence[Standing] = ()
    of_host: Sequence[Callable[[HostView], Iterator[Finding]]] = ()
    live_of_host: Sequence[Callable[[HostView, Live], Iterator[Finding]]] = ()


class _ConfigsOf:
    """What the config classes of a host's modules say of addresses."""

    def __init__(self, view: HostView) -> None:
        self.view = view

    def urls_of(self, label: str) -> str:
        module = self.view.labels.get(label)
        return module.urls if module is not None else ""

    def namespace_of(self, dotted: str) -> str:
        module = next((one for one in self.view.modules if one.urls == dotted), None)
        return module.config.text("namespace") if module is not None and module.config is not None else ""


class HostView:
    """What reading alone tells about a host; nothing here runs anything."""

    def __init__(self, root: Path, data: KitData, python: str | None = None) -> None:
        self.root = root
        self.data = data
        self._python = python
        #  in a sandbox: the folder with the copies of the databases, which stand for the real ones
        self.database_copies: Path | None = None
        self.further = FurtherRules()
        self._apps: dict[str, str] = {}

    @cached_property
    def project(self) -> Project:
        """The project's files."""
        from .reading.project import Project

        return Project(self.root)

    @cached_property
    def search(self) -> Search:
        """The search for the host's interpreter."""
        python = self.data.section(PythonFacts)
        return find_interpreter(self._python, self.root, python.package, python.environments)

    @property
    def interpreter(self) -> Interpreter | None:
        """The host's interpreter, or None when none was found."""
        return self.search.found

    @cached_property
    def installed(self) -> frozenset[str]:
        """The top-level names that the host's interpreter has installed."""
        return self.interpreter.top_level_names() if self.interpreter else frozenset()

    @cached_property
    def version(self) -> str:
        """The host's version from the interpreter's package folders; empty when it cannot be told."""
        found = self.interpreter
        return (found.distribution_version(self.data.section(PythonFacts).distribution) or "") if found else ""

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

        return Addresses(self.project, _ConfigsOf(self) if len(django(self.data).include) > 1 else None)

    @cached_property
    def addresses_by_module(self) -> dict[str, list[Address]]:
        """Every address of the site that ends in a controller of one of the modules, by module."""
        found: dict[str, list[Address]] = {}
        for address in self.addresses.walk(self.root_urls) if self.root_urls else ():
            name = address.view
            while name and name not in self._by_name:
                name = name.rpartition(".")[0]
            if name:
                found.setdefault(name, []).append(address)
        return found

    def catches_all(self, route: Route) -> bool:
        """True when nothing behind a route is reached: it stands for every address, or leads to what does."""
        known = django(self.data).catch_all
        return (route.catches_all and not route.includes) or (route.includes in known and not route.pattern)

    def mount_of(self, module: ModuleFiles) -> str:
        """Return the address under which a module's own addresses stand; ``/`` where it is not included."""
        own = self.addresses.file(module.urls) if module.urls else None
        return self._mounts.get(own.path, "/") if own is not None else "/"

    @cached_property
    def _mounts(self) -> dict[Path, str]:
        """The address under which those of a url configuration stand first, by its file."""
        found: dict[Path, str] = {}
        for address in self.addresses.walk(self.root_urls) if self.root_urls else ():
            route = address.route
            if route.pattern is not None and not route.regular:
                found.setdefault(route.file, address.path.removesuffix(route.pattern) or "/")
        return found

    @cached_property
    def behind_catch_all(self) -> dict[str, list[tuple[int, Route]]]:
        """The root's routes that nobody reaches, by what they include: the line of what is in their way, and each."""
        found: dict[str, list[tuple[int, Route]]] = {}
        conf = self.addresses.file(self.root_urls) if self.root_urls else None
        caught = 0
        for route in conf.routes if conf is not None else ():
            if self.catches_all(route):
                caught = caught or route.line
            elif caught and route.includes:
                found.setdefault(route.includes, []).append((caught, route))
        return found

    @cached_property
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
        found = find_modules(
            self.project, {entry.value: self.app_of(entry.value) for entry in self.listed}, packages - {""}
        )
        if django(self.data).host_apps:
            from .reading.overrides import overridden

            for module in found:
                override = overridden(self, module)
                if override is not None and module.config is not None and not module.config.text("label"):
                    module.label = override.label  # the label of the host's app, which its config inherits
        self._tell_addresses(found)
        return found

    def _tell_addresses(self, modules: Sequence[ModuleFiles]) -> None:
        """Tell modules whose url configuration has a name of its own what the root addresses include of them."""
        from .reading.code import spelled

        by_name = {module.name: module for module in modules}
        path = self.project.file_of(self.root_urls) if self.root_urls else None
        source = self.project.parse(path) if path is not None else None
        for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
            if not isinstance(node, ast.Call) or spelled(node.func).rpartition(".")[2] != "include" or not node.args:
                continue
            first = node.args[0].elts[0] if isinstance(node.args[0], ast.Tuple) and node.args[0].elts else node.args[0]
            text = first.value if isinstance(first, ast.Constant) and isinstance(first.value, str) else ""
            module = by_name.get(text.rpartition(".")[0])
            if module is not None and not (module.has("urls.py") or module.has("urls/__init__.py")):
                module.taken_in = text

    @cached_property
    def _by_name(self) -> dict[str, ModuleFiles]:
        return {module.name: module for module in self.modules}

    def module(self, name: str) -> ModuleFiles | None:
        """Return a module by its dotted name."""
        return self._by_name.get(name)

    @cached_property
    def _by_folder(self) -> dict[str, str]:
        return {os.path.realpath(module.folder): module.name for module in self.modules}

    def owner_of(self, file: str) -> str:
        """Return the module that a file lies in, the deepest one; empty for none."""
        folder = os.path.realpath(file)
        while folder not in self._by_folder and folder != os.path.dirname(folder):
            folder = os.path.dirname(folder)
        return self._by_folder.get(folder, "")

    @cached_property
    def top_packages(self) -> frozenset[str]:
        """The first words of the modules' dotted names: what an import must begin with to concern one of them."""
        return frozenset(module.name.partition(".")[0] for module in self.modules)

    @cached_property
    def module_folders(self) -> frozenset[str]:
        """The folders of the modules."""
        return frozenset(module.place for module in self.modules)

    @cached_property
    def _entries(self) -> dict[str, list[Entry]]:
        """The entries of the host's list by the package that they name."""
        found: dict[str, list[Entry]] = {}
        for entry in self.listed:
            found.setdefault(self.app_of(entry.value), []).append(entry)
        return found

    def app_of(self, entry: str) -> str:
        """Return the package of the app that an entry of the host's list stands for."""
        if entry not in self._apps:
            self._apps[entry] = app_of(self.project, entry)
        return self._apps[entry]

    def entries_of(self, module: ModuleFiles) -> list[Entry]:
        """Return the entries of the host's list that name a module, as a package or by its config class."""
        return self._entries.get(module.name, [])

    @property
    def list_is_sure(self) -> bool:
        """True when the files tell all of the host's list of modules."""
        value = self.settings.get("INSTALLED_APPS") if self.settings is not None else None
        return value is not None and value.sure and isinstance(value.plain, list)

    def entry_of(self, module: ModuleFiles) -> Entry | None:
        """Return the first entry of the host's list that names a module, or None."""
        return next(iter(self.entries_of(module)), None)

    @cached_property
    def _positions(self) -> dict[str, int]:
        names = [self.app_of(entry.value) for entry in self.listed]
        return {name: number for number, name in reversed(list(enumerate(names)))}

    def position(self, module: ModuleFiles) -> int | None:
        """Return where in the host's list a module stands, or None."""
        return self._positions.get(module.name)

    @cached_property
    def claims(self) -> Claims:
        """What each enabled module claims for itself: labels, tables, commands, templates, tag libraries."""
        from .reading.claims import Claims

        return Claims(self)

    @cached_property
    def undefined(self) -> dict[str, list[Undefined]]:
        """The names that code of the host uses and nothing defines, by file."""
        from ...python.undefined import undefined_names

        return undefined_names(self.root)

    @cached_property
    def drawing(self) -> Drawing:
        """What pages can draw of what stands in the templates."""
        from .reading.drawing import Drawing

        return Drawing(self.templates)

    @cached_property
    def templates(self) -> Templates:
        """The templates and tag libraries of the host's own folders."""
        from .reading.templates import Templates

        return Templates(self)

    @cached_property
    def field_types(self) -> dict[str, str]:
        """The types of fields by the name of the host's class; empty for a class that no brief says."""
        of_kit = reversed(list(django(self.data).fields.items()))
        found = {entry.field_class.rpartition(".")[2]: name for name, entry in of_kit if name != "choice"}
        return found | {
            "AutoField": "",
            "BigIntegerField": "integer",
            "SmallIntegerField": "integer",
            "PositiveIntegerField": "integer",
            "PositiveSmallIntegerField": "integer",
            "PositiveBigIntegerField": "integer",
            "ImageField": "file",
        }

    @cached_property
    def has_foreign_modules(self) -> bool:
        """True when the list names modules that neither lie in the host's folders nor are the host's own."""
        return any(self.module(name) is None and not name.startswith("django.") for name in self._entries)

    @cached_property
    def static_folders(self) -> list[Path]:
        """The folders of static files: those of the modules, and those that the settings name."""
        found = [module.folder / "static" for module in self.modules if module.has("static")]
        said = self.settings.plain("STATICFILES_DIRS", []) if self.settings else []
        extra = said if isinstance(said, list) else []
        return [*found, *(self.root / entry for entry in extra if isinstance(entry, str | Path))]

    @cached_property
    def static_folders_told(self) -> bool:
        """True when the settings tell all folders of static files beside those of modules."""
        value = self.settings.get("STATICFILES_DIRS") if self.settings is not None else None
        entries = value.plain if value is not None else []
        return isinstance(entries, list) and all(isinstance(one, str | Path | list) for one in entries)

    @cached_property
    def includes_screens(self) -> bool:
        """True when some url configuration that the root addresses lead to names the administration's site."""
        seen: set[str] = set()

        def names_it(dotted: str) -> bool:
            conf = self.addresses.file(dotted)
            if conf is None or dotted in seen:
                return False
            seen.add(dotted)
            source = self.project.parse(conf.path)
            lines = source.source.text.splitlines() if source is not None and source.source is not None else []
            code = "\n".join(line for line in lines if not line.startswith(("from ", "import ")))
            if "admin" in code and "site" in code:
                return True
            return any(names_it(route.includes) for route in conf.routes if route.includes)

        return names_it(self.root_urls)

    def prepare_sharing(self) -> None:
        """Read what belongs to no module alone, before the work on modules is shared out among copies."""
        from .reading.modules import VERY_MANY

        self.addresses.in_short = True
        self.addresses.file(self.root_urls)
        work_out(self, "listed", "_by_name", "_positions", "_entries", "behind_catch_all", "doubles", "module_folders")
        work_out(self, "top_packages", "field_types", "installed")
        work_out(self, "undefined")
        work_out(self.claims, "enabled")
        if len(self.modules) >= VERY_MANY:
            self.project.forget()

    def read_alone(self, modules: Sequence[ModuleFiles]) -> list[dict[str, Any]]:
        """Return what the own files of each of some modules tell, which rules ask for that compare modules."""
        from .reading.modules import OWN_FACTS, VERY_MANY

        facts: list[dict[str, Any]] = [{} for _ in modules]
        for name in OWN_FACTS:
            for module, told in zip(modules, facts, strict=True):
                told[name] = getattr(module, name)
        for module, told in zip(modules, facts, strict=True):
            if self.addresses.by_files_alone and module.urls:
                told["addresses"] = self.addresses.file(module.urls)
        if len(self.modules) >= VERY_MANY:
            self.project.forget()
        return facts

    def take_together(self, modules: Sequence[ModuleFiles], facts: Sequence[dict[str, Any]]) -> None:
        """Take what was read of each module elsewhere."""
        for module, told in zip(modules, facts, strict=True):
            if "addresses" in told:
                self.addresses.know(module.urls, told.pop("addresses"))
            module.__dict__.update(told)

    @cached_property
    def doubles(self) -> dict[str, list[Path]]:
        """Folders that are hidden on the import path by another of the same name, by module."""
        found: dict[str, list[Path]] = {}
        for module in self.modules:
            for root in self.project.import_roots:
                place = f"{root}/{module.name.replace('.', '/')}"
                if place != module.place and os.path.exists(f"{place}/__init__.py"):
                    found.setdefault(module.name, []).append(Path(place))
        return found

    @cached_property
    def servers(self) -> list[RunningServer]:
        """Servers of this host that run on this machine and do not reload by themselves."""
        from ....running.servers import running_servers

        return running_servers(self.root, lambda words: b"runserver" in words and b"--noreload" in words)

    @cached_property
    def titled(self) -> dict[str, list[ModuleFiles]]:
        """The modules by the titles that their config classes give them."""
        found: dict[str, list[ModuleFiles]] = {}
        for module in self.modules:
            if module.config is not None:
                found.setdefault(module.config.text("verbose_name"), []).append(module)
        return found

    @cached_property
    def labels(self) -> dict[str, ModuleFiles]:
        """The modules by their labels."""
        return {module.label: module for module in self.modules}

    def permissions(self, label: str) -> set[str] | None:
        """Return the permissions that the module of a label brings; None when its files leave a doubt."""
        from .reading.code import permissions_declared, permissions_told

        module = self.labels.get(label)
        if module is None:
            return None
        package = sorted((module.folder / "models").rglob("*.py")) if module.has("models/__init__.py") else []
        sources = [self.project.parse(path) for path in package or [module.folder / "models.py"]]
        statements: list[ast.stmt] = []
        for source in sources:
            if source is not None and source.tree is None:
                return None
            statements += source.tree.body if source is not None and source.tree is not None else []
        whole = ast.Module(statements, [])
        return permissions_declared(whole, label) if permissions_told(whole) else None

    def relative(self, path: Path | str) -> str:
        """Spell a path from the host's root."""
        return self.project.relative(path)
