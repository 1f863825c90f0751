"""One Django host behind the contract: each method hands on to the file that knows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....caching.rests_on import RestsOn
from ....core.errors import WrongUse
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
from .reading.project import ENTRY_SCRIPT
from .view import FurtherRules, HostView

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence
    from pathlib import Path

    from ....core.brief import Brief
    from ....core.changes import ChangeSet
    from ....core.conditions import Answer
    from ....core.contents import PutContent, TakenContent
    from ....core.findings import Finding
    from ....core.graphs import ModuleGraph
    from ....core.hostfacts import StepRun
    from ....core.names import NameFamily
    from ....core.parts.placing import Placement
    from ....core.renaming.spellings import Renaming
    from ....core.results import SetupCheck
    from ....core.surveys import HostFacts
    from ....core.tables import Table
    from ....running.interpreter import Search
    from ...contract.exchange import Edit, Mend, StartUp
    from ...contract.kit import HostOptions
    from ...contract.kitdata import KitData
    from .composing.shared import Further


class DjangoHost(RunByPython, RowKeepingHost[HostView, ModuleFiles]):
    """A Django project at ``root``."""

    dropping_room = f"{__package__}.dropping"

    def __init__(self, root: Path, data: KitData, options: HostOptions, database_copies: Path | None = None) -> None:
        self.database_copies = database_copies
        super().__init__(root, data, options)

    def look(self) -> HostView:
        """Return the host as its files show it now."""
        view = HostView(self.root, self.data, self.options.runtime)
        view.database_copies = self.database_copies
        view.further = self.rules
        return view

    @property
    def rules(self) -> FurtherRules:
        """The rules of a kit that builds on this one; none here."""
        return FurtherRules()

    @property
    def search(self) -> Search:
        """How the interpreter was looked for, and what was found."""
        return self.view.search

    knows_leftovers = True
    takes_address = True

    def leftovers(self, module: str) -> list[str]:
        """Tell the content types, permissions, groups and files that the host keeps of a module."""
        from .leftovers import leftovers

        return leftovers(self.view, self.module(module), self.options.limit_seconds)

    def drop_leftovers(self, module: str, keep_in: Path) -> list[StepRun]:
        """Take away the content types, permissions, groups and files that the host keeps of a module."""
        from .leftovers import drop_leftovers

        return drop_leftovers(self.view, self.module(module), keep_in, self.options.limit_seconds)

    def names_to_need(self) -> frozenset[str]:
        """Return the names of the host's own modules, and of all that are listed."""
        listed = {str(entry.value) for entry in self.view.listed}
        return super().names_to_need() | frozenset(self.view.claims.labels) | listed

    def facts(self, live: bool) -> HostFacts:
        """Tell what survey shows."""
        from .survey import facts

        return facts(self.view, live, self.options.limit_seconds, self.module_folders(), self.modules())

    def module_folders(self) -> list[ModuleFolder]:
        """Return the folders for modules, the one that holds most of them first."""
        counts: dict[Path, int] = dict.fromkeys(self.view.project.import_roots, 0)
        for module in self.view.modules:
            counts[module.folder.parent] = counts.get(module.folder.parent, 0) + 1
        ordered = sorted(counts, key=lambda folder: -counts[folder])
        return [self._place(folder, counts[folder]) for folder in ordered if folder.is_relative_to(self.root)]

    def _place(self, folder: Path, count: int) -> ModuleFolder:
        roots = self.view.project.import_roots
        prefixes = [".".join(folder.relative_to(root).parts) for root in roots if folder.is_relative_to(root)]
        prefix = min(prefixes, key=len)
        if any(module.folder.parent == folder and module.name == module.folder.name for module in self.view.modules):
            prefix = ""
        why = f"{number_of(count, 'module')} there" if count else "on the import path"
        return ModuleFolder(folder.relative_to(self.root).as_posix(), prefix, why)

    def modules(self) -> list[ModuleState]:
        """Return the modules that the host's files show."""
        return [
            ModuleState(
                module.name,
                module.label,
                module.title,
                module.version,
                self.view.relative(module.folder),
                True,
                self.view.entry_of(module) is not None,
                None,
            )
            for module in self.view.modules
        ]

    def module(self, name: str) -> ModuleFiles:
        """Return a module by any of its spellings; raises WrongUse naming the nearest."""
        wanted = name.strip().rstrip("/").replace("/", ".").lower()
        modules = self.view.modules
        for module in modules:
            if wanted in (module.name.lower(), module.label.lower(), module.folder.name.lower()):
                return module
        for module in modules:
            if module.title.lower() == name.strip().lower():
                return module
        known = [module.name for module in self.view.modules] + [module.label for module in self.view.modules]
        raise WrongUse("module-unknown", f"This host has no module {name!r}.", did_you_mean(name, known))

    def check_name(self, name: NameFamily) -> None:
        """Raise when a new module cannot have this name here."""
        from .naming import check_module_name

        check_module_name(self.view, self.data, name)

    def compose(self, brief: Brief, place: ModuleFolder) -> ChangeSet:
        """Return the change set that makes a module of a brief."""
        from .composing.module import compose

        return compose(self.view, self.data, brief, place, self.further)

    @property
    def further(self) -> Further:
        """What a kit that builds on this one adds to modules."""
        from .composing.shared import PLAIN

        return PLAIN

    def folder(self, module: str) -> str:
        """Return where a module lies."""
        return self.view.relative(self.module(module).folder)

    def read_brief(self, module: str) -> ReadBrief:
        """Return the brief that a module's files tell."""
        from .reading.parts import read_parts

        found = read_parts(self.view, self.module(module))
        relative = self.view.relative
        left_out = [(f"{relative(one.file)}:{one.line}", one.what) for one in found.left_out]
        places = {key: f"{relative(file)}:{line}" for key, (file, line) in found.places.items()}
        return ReadBrief(found.brief, left_out, places)

    def tidied(self, made: Sequence[ChangeSet]) -> list[ChangeSet]:
        """Return change sets that make modules with their Python as the project formats it."""
        return tidied(made, self.root)

    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module."""
        from .composing.module import generate, site_of

        files = generate(self.data, brief, site_of(self.view, self.module(module)), last, self.further)
        return formatted(files, self.root)

    def into_package(
        self, module: str, path: str, name: str, was: bytes, content: bytes, read: Callable[[str], bytes | None]
    ) -> dict[str, bytes]:
        """Carry a change of a file into a package of models, views or administration, or another file of addresses."""
        from ...python.packages import into_file, into_package

        found = self.module(module)
        addresses = self.view.project.file_of(found.urls) if path == "urls.py" and found.urls else None
        if addresses is not None and addresses.is_relative_to(found.folder):
            return into_file(addresses.relative_to(found.folder).as_posix(), was, content, read, self.carry)
        return into_package(path, name, was, content, read)

    def carry(self, path: str, current: bytes, before: bytes, after: bytes) -> bytes:
        """Return a file with a change carried into it; new addresses go ahead of those that answer for them."""
        from .reading.addressing import ahead_of_what_swallows

        carried = super().carry(path, current, before, after)
        return ahead_of_what_swallows(current, carried) if path.endswith(".py") and b"urlpatterns" in after else carried

    drops_what_is_gone = True

    @property
    def record_renamed(self) -> str:
        """What becomes of a record that has another name."""
        return "its table keeps its rows; rights to {old} that somebody gave by hand must be given again for {new}"

    def migrations(self, module: str, before: Brief, after: Brief, changed: Mapping[str, bytes]) -> dict[str, bytes]:
        """Return the migrations that lead from one brief of a module to another."""
        from .composing.module import migration_files

        return migration_files(self.view, self.data, self.module(module), before, after, changed)

    def placements(self, module: str, before: Brief, after: Brief) -> ChangeSet:
        """Return the edits of the site's templates that put a module's blocks where its brief says."""
        from .placing import replace

        return replace(self.view, self.module(module), before, after)

    def refuse_unseen(self, placements: Sequence[Placement]) -> None:
        """Raise WrongUse for a placement where no template is, Refused where no page draws that part of it."""
        from .placing import refuse_unseen

        refuse_unseen(self.view, placements)

    def show(self, what: str, module: str, live: bool) -> Table:
        """Return the table of routes, rights, order or placements of a module."""
        from . import showing

        found = self.module(module)
        if what == "rights":
            if live:
                self.interpreter()
            return showing.rights(self.view, found, live, self.options.limit_seconds)
        tables = {"routes": showing.routes, "order": showing.order, "placements": showing.placements}
        return tables[what](self.view, found)

    def graph(self) -> ModuleGraph:
        """Return the host's own modules and what they need of each other."""
        from .showing import graph

        return graph(self.view)

    def switch_on(self, module: str, at: str | None) -> Edit:
        """Return the edits that register a module."""
        from .registration import switch_on

        return switch_on(self.view, self.module(module), at)

    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return the edits that take a module out, and what stays behind."""
        from .registration import switch_off

        edit = switch_off(self.view, self.module(module))
        if edit.changes and self.view.interpreter is not None:
            from .dropping import what_stays

            edit.stays = what_stays(self.view, self.module(module), self.options.limit_seconds)
        return edit

    def carry_data(
        self, module: str, renaming: Renaming, moves: Mapping[str, str], files: Mapping[str, bytes]
    ) -> dict[str, bytes]:
        """Return the migrations that carry a module's tables, content types and groups over to another name."""
        from .renaming import carry_data

        groups = [one.name.title for one in self.read_brief(module).brief.groups]
        return carry_data(self.view, self.module(module), groups, renaming, moves, files)

    def for_copy(self, path: str, content: bytes) -> bytes:
        """Return a migration without what it replaces: the copy's tables never had another name."""
        from .renaming import without_past

        return without_past(path, content)

    def start_up(self) -> StartUp:
        """Start the host, run its own checks, and tell which apps it has."""
        from .asking import start_up

        return start_up(self.view, self.options.limit_seconds)

    @changes_state
    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        """Apply the migrations that are due, and load sample data where that is asked for."""
        from .settling import settle

        self.interpreter()
        return settle(self.view, [self.module(name) for name in modules], self.options.limit_seconds, samples)

    def check(self, modules: Sequence[str], live: bool) -> SetupCheck:
        """Return ladder and findings of the modules."""
        from ...shared.judging import Kept
        from .examining.examine import examine

        def chosen() -> Sequence[ModuleFiles]:
            return [self.module(name) for name in modules] if modules else self.view.modules

        kept_by = Kept(self.options.remember, self.rests_on)
        return examine(self.view, chosen, live, self.options.limit_seconds, kept_by)

    def test_probes(self) -> Sequence[Path]:
        """Return the folder with the runner that records what the project's own does."""
        from .asking import PROBE

        return (PROBE.parent,)

    def settings_files(self) -> list[Path]:
        """Return the settings module, and the modules beside it that it may be put together from."""
        name = self.view.project.settings_module
        path = self.view.project.file_of(name) if name else None
        if path is None:
            return []
        near = sorted(path.parent.glob("*.py")) if path.parent != self.root else [path]
        return [one for one in near if "settings" in str(one.relative_to(self.root)) or one == path]

    def rests_on(self) -> RestsOn | None:
        """Return the folders that code is imported from, and what is installed for it."""
        found = self.view.interpreter
        if self.view.servers:
            return None  # whether one is older than the files depends on their times, not on their content
        roots = [str(root) for root in self.view.project.import_roots if not root.is_relative_to(self.root)]
        return RestsOn((str(self.root), *roots), tuple(map(str, found.libraries)) if found else ())

    def stale_servers(self) -> list[int]:
        """Return the processes of servers that are older than the newest source of the modules."""
        sources = (path for module in self.view.modules for path in module.folder.rglob("*.py"))
        newest = max((path.stat().st_mtime for path in sources), default=0.0)
        return [server.process for server in self.view.servers if server.began < newest]

    def mend(self, finding: Finding) -> Mend:
        """Return the mend of a finding."""
        from .mends import mend

        return mend(self.view, finding)

    def why(self, module: str, what: str | None, person: str) -> Answer:
        """Return every condition for a thing of a module to be seen."""
        from .why import why

        return why(self.view, self.module(module), what, person, self.options.limit_seconds)

    def take_content(self, module: str) -> TakenContent:
        """Return a module's records, and whatever else the kit counts as its content, as files."""
        from .contents import take

        self.interpreter()
        return take(self.view, self.module(module), self.options.limit_seconds)

    @changes_state
    def put_content(self, module: str, folder: Path, keep: bool) -> PutContent:
        """Put the content of a folder into the host's database."""
        from .contents import put

        self.interpreter()
        return put(self.view, self.module(module), folder, keep, self.options.limit_seconds)

    def sandboxed(self, folder: Path) -> DjangoHost:
        """Return this host as a copy: with the real one's interpreter, and with copies of its databases."""
        from .asking import copy_databases

        copies = folder / ".databases"
        copies.mkdir(exist_ok=True)
        copy_databases(self.view, copies, self.options.limit_seconds)
        options = self.options._replace(runtime=str(self.interpreter().path))
        return type(self)(folder, self.data, options, copies)

    def serve_command(self, port: int) -> list[str]:
        """Return the command that runs the host's own small server."""
        return [str(self.interpreter().path), ENTRY_SCRIPT, "runserver", "--noreload", f"127.0.0.1:{port}"]

    def addresses(self, module: str) -> list[str]:
        """Return the paths of a module's pages that need no parameters, as the files tell them."""
        found = self.module(module)
        view = self.view
        if not view.root_urls:
            return []
        return [
            one.path
            for one in view.addresses.walk(view.root_urls)
            if one.view.startswith(found.name + ".") and "<" not in one.path and "(" not in one.path
        ]
