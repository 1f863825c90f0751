"""One trytond host behind the contract: each method hands on to the file that knows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import Refused, WrongUse
from ....core.hostfacts import ModuleState
from ....core.modulefolders import ModuleFolder
from ....core.nearest import did_you_mean
from ....core.plurals import number_of
from ...contract.exchange import ReadBrief
from ...python.formatting import formatted, tidied
from ...python.run_by import RunByPython
from ...shared.keeping_rows import RowKeepingHost
from ...shared.viewed import changes_state
from .reading.modules import ModuleFiles
from .view import CONFIGURATION, ON, HostView

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence
    from pathlib import Path

    from ....caching.rests_on import RestsOn
    from ....core.brief import Brief
    from ....core.conditions import Answer
    from ....core.fields import Field
    from ....core.findings import Finding
    from ....core.graphs import ModuleGraph
    from ....core.hostfacts import StepRun
    from ....core.names import NameFamily
    from ....core.renaming.identifiers import Identifiers
    from ....core.renaming.spellings import Renaming
    from ....core.results import SetupCheck
    from ....core.surveys import HostFacts
    from ....core.tables import Table
    from ....running.interpreter import Search
    from ...contract.exchange import Edit, Mend, StartUp
    from ...contract.kit import HostOptions
    from ...contract.kitdata import KitData


class TrytondHost(RunByPython, RowKeepingHost[HostView, ModuleFiles]):
    """A folder with a trytond configuration at ``root``."""

    dropping_room = f"{__package__}.dropping"

    def __init__(self, root: Path, data: KitData, options: HostOptions, database_copies: Path | None = None) -> None:
        super().__init__(root, data, options)
        self.database_copies = database_copies

    def look(self) -> HostView:
        """Return the host as its files show it now."""
        return HostView(self.root, self.data, self.options.runtime, self.database_copies)

    @property
    def search(self) -> Search:
        """How the interpreter was looked for, and what was found."""
        return self.view.search

    def names_to_need(self) -> frozenset[str]:
        """Return the names of all modules that the host finds."""
        return super().names_to_need() | frozenset(self.view.by_name)

    def facts(self, live: bool) -> HostFacts:
        """Tell what survey shows."""
        from .survey import facts

        return facts(self.view, live, self.options.limit_seconds, self.module_folders(), self.modules())

    def module_folders(self) -> list[ModuleFolder]:
        """Return the folders for modules, the one that holds most of them first."""
        counts = {
            folder: sum(module.folder.parent == folder for module in self.view.modules)
            for folder in self.view.module_roots
        }
        if not counts:
            return [ModuleFolder("modules", "", "made with the first module")]
        return [
            ModuleFolder(
                folder.relative_to(self.root).as_posix(),
                "",
                f"{number_of(count, 'module')} there" if count else "on the import path",
            )
            for folder, count in sorted(counts.items(), key=lambda pair: -pair[1])
        ]

    def modules(self) -> list[ModuleState]:
        """Return the modules that the host's files show, in the host's load order behind its own."""
        return [
            ModuleState(
                module.name,
                module.name,
                module.title,
                module.version,
                self.view.relative(module.folder),
                bool(module.entries) or not module.own,
                self.view.state(module) in ON,
                None,
            )
            for module in self.view.modules
        ]

    def module(self, name: str) -> ModuleFiles:
        """Return a module by any of its spellings; raises WrongUse naming the nearest."""
        wanted = name.strip().rstrip("/").rpartition("/")[2].lower()
        for module in self.view.modules:
            if wanted in (module.name.lower(), module.folder.name.lower(), module.title.lower()):
                return module
        known = [module.name for module in self.view.modules]
        raise WrongUse("module-unknown", f"This host has no module {name!r}.", did_you_mean(name, known))

    def check_name(self, name: NameFamily) -> None:
        """Raise when a new module cannot have this name here."""
        from ...python.naming import another, check_python_name

        check_python_name(self.data, name.snake)
        there = next((module for module in self.view.modules if module.name == name.snake), None)
        if there is not None:
            raise Refused(
                "name-taken",
                f"This host has a module {there.name} already, in {self.view.relative(there.folder)}.",
                another(name.snake),
            )

    def compose(self, brief: Brief, place: ModuleFolder) -> ChangeSet:
        """Return the change set that makes a module of a brief."""
        from .composing.module import compose

        return compose(self.root, self.data, brief, place, self.as_the_host_names)

    def folder(self, module: str) -> str:
        """Return where a module lies."""
        return self.view.relative(self.module(module).folder)

    def read_brief(self, module: str) -> ReadBrief:
        """Return the brief that a module's files tell."""
        from .reading.parts import read_parts

        brief, left_out, places = read_parts(self.view, self.module(module))
        relative = self.view.relative
        return ReadBrief(
            brief,
            [(f"{relative(path)}:{line}" if line else relative(path), what) for path, line, what in left_out],
            {key: f"{relative(path)}:{line}" for key, (path, line) in places.items()},
        )

    def tidied(self, made: Sequence[ChangeSet]) -> list[ChangeSet]:
        """Return change sets that make modules with their Python as the project formats it."""
        return tidied(made, self.root)

    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module."""
        from .composing.module import generate

        menu_root = self.module(module).menu_root
        return formatted(generate(self.data, brief, last, menu_root, self.as_the_host_names), self.root)

    def as_the_host_names(self, brief: Brief) -> Brief:
        """Return a brief in which records of other modules are called as the host does, whatever their modules say."""
        records = tuple(
            record._replace(fields=tuple(self._as_named(field) for field in record.fields)) for record in brief.records
        )
        others = {
            field.target.partition(".")[0] for record in brief.records for field in record.fields if "." in field.target
        }
        return brief._replace(records=records, needs=(*brief.needs, *sorted(others - set(brief.needs))))

    def _as_named(self, field: Field) -> Field:
        label, dot, title = field.target.partition(".")
        module = self.view.module(label) if field.is_relation and dot else None
        wanted = title.replace(" ", "").replace("_", "").lower()
        for one in module.classes if module is not None else ():
            plain = one.model.partition(".")[2].replace(".", "").replace("_", "")
            if one.sort == "model" and not one.extends and one.model.islower() and plain == wanted:
                return field._replace(target=one.model)
        return field

    def show(self, what: str, module: str, live: bool) -> Table:
        """Return the table of routes, rights, order or placements of a module."""
        from . import showing

        found = self.module(module)
        if what == "rights" and live:
            self.interpreter()
            return showing.live_rights(self.view, found, self.options.limit_seconds)
        tables = {
            "routes": showing.routes,
            "rights": showing.rights,
            "order": showing.order,
            "placements": showing.placements,
        }
        return tables[what](self.view, found)

    def graph(self) -> ModuleGraph:
        """Return the host's modules and what they need of each other."""
        from .showing import graph

        return graph(self.view)

    def kept_data(self, module: str) -> dict[str, int]:
        """Return the rows of a module's tables, which the database itself tells: nothing is run."""
        from .dropping import kept_data

        return kept_data(self.view, self.module(module))

    def switch_on(self, module: str, at: str | None) -> Edit:
        """Return the edits that let the host find a module."""
        from .registration import switch_on

        return switch_on(self.view, self.module(module), at)

    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return what switching a module off changes in files."""
        from .registration import entry_files, switch_off

        found = self.module(module)
        edit = switch_off(self.view, found)
        if for_good:
            edit.changes = entry_files(self.view, found)
        return edit

    def start_up(self) -> StartUp:
        """Start the host on a copy of its database, and tell which modules that has active."""
        from .asking import start_up

        return start_up(self.view, self.options.limit_seconds)

    @changes_state
    def set_enabled(self, module: str, on: bool) -> list[StepRun]:
        """Activate or deactivate a module in the database."""
        from .settling import set_enabled

        self.interpreter()
        return set_enabled(self.view, self.module(module), on, self.options.limit_seconds)

    @changes_state
    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        """Update the modules that are on, and load sample data where that is asked for."""
        from .settling import settle

        self.interpreter()
        return settle(self.view, [self.module(name) for name in modules], self.options.limit_seconds, samples)

    carries_state = True

    def carry_data(
        self, module: str, renaming: Renaming, moves: Mapping[str, str], files: Mapping[str, bytes]
    ) -> dict[str, bytes]:
        """Return no files: the database is changed itself. Raises Refused where installed modules need the old name."""
        from .renaming import refuse_needed

        refuse_needed(self.view, module)
        return super().carry_data(module, renaming, moves, files)

    @changes_state
    def carry_state(self, module: str, changed: Identifiers) -> list[StepRun]:
        """Rename in the database what carries a name that changed, and update the module."""
        from .renaming import carry_state
        from .settling import settle

        self.interpreter()

        def update() -> list[StepRun]:
            self.look_again()
            return settle(self.view, [self.module(module)], self.options.limit_seconds, False)

        if self.view.database is None:
            return []
        return carry_state(self.view, module, changed, self.options.limit_seconds, update)

    def check(self, modules: Sequence[str], live: bool) -> SetupCheck:
        """Return ladder and findings of the modules."""
        from ...shared.judging import Kept
        from .examining.examine import examine

        chosen = [self.module(name) for name in modules] if modules else self.view.modules
        kept_by = Kept(self.options.remember, self.rests_on)
        return examine(self.view, chosen, live, self.options.limit_seconds, bool(modules), kept_by)

    def settings_files(self) -> list[Path]:
        """Return the host's configuration."""
        return [self.root / CONFIGURATION]

    def rests_on(self) -> RestsOn | None:
        """Return the host's folder, the modules that pip installed, and what else is installed."""
        from ....caching.rests_on import RestsOn

        libraries = [str(folder) for folder in self.view.libraries]
        linked = [str(folder) for folder in self.view.import_path if str(folder) not in libraries]
        installed = [f"{folder}/trytond/modules" for folder in libraries]
        if self.view.servers:
            return None  # whether one is older than the files depends on their times, not on their content
        facts = self.view.database.stamp() if self.view.database is not None else ()
        return RestsOn((str(self.root), *linked, *installed), tuple(libraries), tuple(facts))

    def stale_servers(self) -> list[int]:
        """Return the processes of servers that are older than the newest file of the modules."""
        newest = max(
            (path.stat().st_mtime for one in self.view.modules if one.own for path in one.folder.rglob("*.*")),
            default=0.0,
        )
        return [server.process for server in self.view.servers if server.began < newest]

    def mend(self, finding: Finding) -> Mend:
        """Return the mend of a finding."""
        from .mends import mend

        return mend(self.view, finding)

    def why(self, module: str, what: str | None, person: str) -> Answer:
        """Return every condition for a thing of a module to be seen."""
        from .why import why

        self.interpreter()
        return why(self.view, self.module(module), what, person, self.options.limit_seconds)

    def sandboxed(self, folder: Path) -> TrytondHost:
        """Return this host as a copy, with the real one's interpreter and a copy of its database."""
        from .asking import copy_database

        self.interpreter()
        copies = folder / ".databases"
        copies.mkdir(exist_ok=True)
        copy_database(self.view, copies)
        assert self.view.interpreter is not None
        options = self.options._replace(runtime=str(self.view.interpreter.path))
        return TrytondHost(folder, self.data, options, copies)

    def serve_command(self, port: int) -> list[str]:
        """Return the command that runs the host's own server on a port of its own."""
        from .running import command_line

        self.interpreter()
        return command_line(self.view, "serve", port=port)

    def addresses(self, module: str) -> list[str]:
        """Return the paths of a module's pages that need no parameters, as the files tell them."""
        from .reading.routes import routes_of

        base = self.view.database_name or "DATABASE"
        found = [one.path(base) for one in routes_of(self.module(module)) if "GET" in one.methods]
        return [path for path in dict.fromkeys(found) if "<" not in path]
