"""One WordPress host behind the contract: each method hands on to the file that knows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import Refused, WrongUse
from ....core.hostfacts import ModuleState
from ....core.modulefolders import ModuleFolder
from ....core.nearest import did_you_mean
from ....core.plurals import number_of
from ...shared.keeping_rows import RowKeepingHost
from ...shared.viewed import changes_state
from .facts import wordpress
from .installing import install
from .php import PROBE, words
from .reading.modules import FOLDER, ModuleFiles
from .registration import switch_off, switch_on
from .sandbox import copy_database
from .settling import set_enabled, settle
from .view import HostView

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence
    from pathlib import Path

    from ....caching.rests_on import RestsOn
    from ....core.brief import Brief
    from ....core.conditions import Answer
    from ....core.findings import Finding
    from ....core.graphs import ModuleGraph
    from ....core.hostfacts import StepRun
    from ....core.names import NameFamily
    from ....core.parts.placing import Placement
    from ....core.renaming.identifiers import Identifiers
    from ....core.results import SetupCheck
    from ....core.surveys import HostFacts
    from ....core.tables import Table
    from ....core.testing import NeverFound, TestForm
    from ...contract.exchange import Edit, Mend, ReadBrief, StartUp
    from ...contract.kit import HostOptions
    from ...contract.kitdata import KitData
    from ...contract.testing import TestProgram
    from .database import Server


class WordPressHost(RowKeepingHost[HostView, ModuleFiles]):
    """A folder with the host's files at ``root``; ``server`` is the database server of a sandbox."""

    dropping_room = f"{__package__}.dropping"

    def __init__(self, root: Path, data: KitData, options: HostOptions, server: Server | None = None) -> None:
        super().__init__(root, data, options)
        self.server = server

    def look(self) -> HostView:
        """Return the host as its files show it now."""
        return HostView(self.root, self.data, self.options.runtime, self.server)

    def module(self, name: str) -> ModuleFiles:
        """Return a module by any of its spellings; raises WrongUse naming the nearest."""
        wanted = _plain(name)
        for module in self.view.modules:
            if wanted in (_plain(module.name), _plain(module.title), _plain(module.key)):
                return module
        known = [module.name for module in self.view.modules]
        raise WrongUse("module-unknown", f"This host has no module {name!r}.", did_you_mean(_plain(name), known))

    def facts(self, live: bool) -> HostFacts:
        """Tell what survey shows."""
        from .survey import facts

        return facts(self.view, live, self.options.limit_seconds, self.module_folders(), self.modules())

    def module_folders(self) -> list[ModuleFolder]:
        """Return the one folder for modules."""
        count = sum(module.sort == "module" for module in self.view.modules)
        return [ModuleFolder(FOLDER, "", f"{number_of(count, 'module')} there")]

    def own_code(self) -> Sequence[Path]:
        """Return the folders that come with the host."""
        return self.root / "wp-includes", self.root / "wp-admin"

    def need_runtime(self) -> None:
        """Raise HostFailed where there is no PHP, or no database."""
        self.view.ready(self.options.limit_seconds)

    def modules(self) -> list[ModuleState]:
        """Return the modules that the host's files show; what is on, its database alone says, which is not asked."""
        return [
            ModuleState(
                module.name,
                module.name,
                module.title + (", a theme" if module.sort == "theme" else ""),
                module.version,
                self.view.relative(module.place),
                bool(module.mains),
                None,
                None,
            )
            for module in self.view.modules
        ]

    def check_name(self, name: NameFamily) -> None:
        """Raise when a new module cannot have this name here."""
        law = self.data.facts.naming
        label = name.kebab
        another = f"Choose another, such as {label}-desk, or keep the title and say --internal NAME."
        if len(label) > law.longest:
            raise WrongUse(
                "name-too-long",
                f"The internal name {label[:40]}… has {len(label)} characters; there is room for {law.longest}.",
                "Give a shorter one: --internal NAME.",
            )
        if label in law.taken or label.replace("-", "") in wordpress(self.data).php_words:
            raise WrongUse("name-taken", f"A module cannot be named {label}: the host or PHP uses it itself.", another)
        there = next((module for module in self.view.modules if _plain(module.name) == _plain(label)), None)
        if there is not None:
            raise Refused(
                "name-taken",
                f"This host has a module {there.name} already, in {self.view.relative(there.place)}.",
                another,
            )

    def compose(self, brief: Brief, place: ModuleFolder) -> ChangeSet:
        """Return the change set that makes a module of a brief."""
        from .composing.module import compose

        return compose(self.root, self.data, brief, place)

    def folder(self, module: str) -> str:
        """Return where a module lies; raises Refused for one that is a file alone, whose folder is everybody's."""
        found = self.module(module)
        if found.single:
            raise Refused(
                "one-file",
                f"{found.name} is a file alone ({self.view.relative(found.place)}), not a folder; nothing was changed.",
                "Put it into a folder of its own name first.",
            )
        return self.view.relative(found.folder)

    def read_brief(self, module: str) -> ReadBrief:
        """Return the brief that a module's files tell."""
        from .reading.parts import read_parts

        return read_parts(self.view, self.module(module))

    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module; raises Refused for one that was made by hand.

        Its code begins its parts in its own way: what would be added to it would lie there and never be loaded.
        """
        from .composing.module import generate

        found = self.module(module)
        if found.single or not (found.place / "src/Module.php").is_file():
            raise Refused(
                "made-by-hand",
                f"{found.name} was not made by swift-sprout: nothing in it would begin what is made for it.",
                f'Make a module beside it that needs it: new NAME, with needs = ["{found.name}"] in its brief.',
            )
        return generate(self.data, brief, last)

    def refuse_unseen(self, placements: Sequence[Placement]) -> None:
        """Raise WrongUse for a placement in an area that the theme has not, Refused for one that no page draws."""
        from .placing import refuse_unseen

        refuse_unseen(self.view, placements, self.options.limit_seconds)

    def show(self, what: str, module: str, live: bool) -> Table:
        """Return the table of routes, rights, order or placements of a module."""
        from .showing import show

        return show(self.view, what, self.module(module), live, self.options.limit_seconds)

    def graph(self) -> ModuleGraph:
        """Return the host's modules and what they need of each other."""
        from .showing import graph

        return graph(self.view)

    def switch_on(self, module: str, at: str | None) -> Edit:
        """Return no edits of files: the host's database alone says what is on."""
        return switch_on(self.view, self.module(module), at)

    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return what switching a module off leaves behind; no file is edited."""
        return switch_off(self.view, self.module(module))

    def start_up(self) -> StartUp:
        """Start the host once, and tell which modules it has active."""
        from .asking import start_up

        return start_up(self.view, self.options.limit_seconds)

    carries_state = True

    @changes_state
    def carry_state(self, module: str, changed: Identifiers) -> list[StepRun]:
        """Rename in the database what carries a name that changed."""
        from .renaming import carry_state

        return carry_state(self.view, module, changed, self.options.limit_seconds)

    @changes_state
    def set_enabled(self, module: str, on: bool) -> list[StepRun]:
        """Activate or deactivate a module with the host's own functions."""
        return set_enabled(self.view, self.module(module), on, self.options.limit_seconds)

    @changes_state
    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        """Bring tables, roles and rules about, and load sample data where that is asked for."""
        return settle(self.view, [self.module(name) for name in modules], self.options.limit_seconds, samples)

    def check(self, modules: Sequence[str], live: bool) -> SetupCheck:
        """Return ladder and findings of the modules."""
        from ...shared.judging import Kept
        from .examining.examine import examine

        chosen = [self.module(name) for name in modules] if modules else self.view.modules
        kept_by = Kept(self.options.remember, self.rests_on)
        return examine(self.view, chosen, live, self.options.limit_seconds, kept_by)

    def settings_files(self) -> list[Path]:
        """Return the host's configuration."""
        return [self.root / "wp-config.php"]

    def rests_on(self) -> RestsOn:
        """Return the folder of modules and themes, the host's version and configuration, and the PHP program."""
        from ....caching.rests_on import RestsOn

        configuration = self.view.configuration
        text = configuration.read_text("utf-8", "replace") if configuration is not None else ""
        php = self.view.php.path if self.view.php is not None else ""
        facts = (php, str(configuration), text, self.view.version)
        return RestsOn((str(self.root / "wp-content"),), (), facts)

    def mend(self, finding: Finding) -> Mend:
        """Return the mend of a finding."""
        from .mends import mend

        return mend(self.view, self.module(finding.module), finding)

    def why(self, module: str, what: str | None, person: str) -> Answer:
        """Return every condition for a thing of a module to be seen."""
        from .why import why

        return why(self.view, self.module(module), what, person, self.options.limit_seconds)

    @changes_state
    def install(self, archive: Path) -> tuple[str, list[StepRun]]:
        """Install a module from an archive with the host's own upgrader."""
        return install(self.view, archive, self.options.limit_seconds)

    def test_files(self, module: str) -> list[str]:
        """Return the files of a module that hold tests."""
        from .testing import test_files

        return test_files(self.view, self.module(module))

    def test_programs(self, modules: Sequence[str], project: Sequence[Path]) -> list[TestProgram]:
        """Return the programs that modules bring for their tests."""
        from .testing import test_programs

        return test_programs(self.view, [self.module(name) for name in modules], self.options.limit_seconds)

    def never_found(self, module: str, file: str, form: TestForm) -> NeverFound:
        """Return why no test of a file was run."""
        from .testing import never_found

        return never_found(self.view, self.module(module), file)

    def sandboxed(self, folder: Path) -> WordPressHost:
        """Return this host as a copy, with a copy of its database on a server of its own."""
        server = copy_database(self.view, folder, self.options.limit_seconds)
        return WordPressHost(folder, self.data, self.options, server)

    def serve_command(self, port: int) -> list[str]:
        """Return the command that runs PHP's own server on a port; the host's database server runs until then."""
        php = self.view.ready(self.options.limit_seconds)
        return words(php, self.root, ["-S", f"127.0.0.1:{port}", "-t", str(self.root), str(PROBE / "router.php")])

    def addresses(self, module: str) -> list[str]:
        """Return the paths of a module's pages that need no parameters, as the files tell them."""
        from .reading.routes import pages_of

        return [page.path for page in pages_of(self.module(module)) if page.path and not page.changing]


def _plain(name: str) -> str:
    """Return what tells names apart: without folders, endings, and whatever joins words."""
    text = name.strip().rstrip("/").removesuffix(".php").rpartition("/")[2].lower()
    return "-".join(text.replace("_", " ").replace("-", " ").split())
