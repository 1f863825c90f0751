"""What a host is to the rest of the program: everything above talks to hosts through this class only.

Each host must find its modules, register them, check them and be served. What else its kind can do it takes on by
saying the methods of that capability; a method that it does not say has a working answer here, or refuses.
"""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from ...core.changes import ChangeSet
from ...core.errors import Refused, SproutError, WrongUse
from ...core.hostfacts import Missing, ModuleState, StepRun
from ...core.modulefolders import ModuleFolder
from ...core.nearest import did_you_mean
from ...core.testing import NeverFound, TestForm
from .exchange import Edit, Mend, ReadBrief, StartUp

if TYPE_CHECKING:
    from ...caching.rests_on import RestsOn
    from ...core.brief import Brief
    from ...core.conditions import Answer
    from ...core.contents import PutContent, TakenContent
    from ...core.findings import Finding
    from ...core.graphs import ModuleGraph
    from ...core.names import NameFamily
    from ...core.parts.placing import Placement
    from ...core.renaming.identifiers import Identifiers
    from ...core.renaming.spellings import Renaming
    from ...core.results import SetupCheck
    from ...core.surveys import HostFacts
    from ...core.tables import Table
    from .kit import HostOptions
    from .kitdata import KitData
    from .testing import TestProgram


class Host(ABC):
    """One installed host of a kit's kind; methods raise ``SproutError`` only.

    root    -- its folder
    data    -- the data of its kit
    options -- how to work on it
    """

    def __init__(self, root: Path, data: KitData, options: HostOptions) -> None:
        self.root = root
        self.data = data
        self.options = options

    def look_again(self) -> None:
        """Forget what was read of files and state: they may have changed. Whoever changes them calls it."""

    # -- to find modules --------------------------------------------------------------------------------------------

    @abstractmethod
    def modules(self) -> list[ModuleState]:
        """Return the modules that the host's files show."""

    @property
    def version(self) -> str:
        """The host's version; empty where it is not known."""
        return ""

    @property
    def runtime(self) -> tuple[str, str]:
        """What runs the host, and how that was found; empty where there is nothing of the sort."""
        return "", ""

    def own_code(self) -> Sequence[Path]:
        """Return the folders of the host's own code, whose words no module brought; none where they are not known."""
        return ()

    def need_runtime(self) -> None:
        """Raise HostFailed where nothing is there that runs the host; kits whose hosts need nothing raise nothing."""

    def missing(self) -> list[Missing]:
        """Return what is missing to work on the host here."""
        return []

    def module_folders(self) -> list[ModuleFolder]:
        """Return the folders for modules, the best for a new one first: here ``modules_folder`` of the kit."""
        folder = self.data.facts.modules_folder
        return [ModuleFolder(folder, "", "where the host looks for modules")]

    def facts(self, live: bool) -> HostFacts:
        """Tell what ``survey`` shows; ``live`` asks the running host as well."""
        from ...core.surveys import HostFacts

        facts = HostFacts(self.data.id, self.data.title, str(self.root), self.version)
        facts.runtime, facts.runtime_origin = self.runtime
        facts.places, facts.modules, facts.missing = self.module_folders(), self.modules(), self.missing()
        facts.notes += self.data.unsure_about(self.version)
        return facts

    def state(self, name: str) -> ModuleState:
        """Return a module by any of its spellings; raises WrongUse naming the nearest."""
        return self._state(self.modules(), name)

    @staticmethod
    def _state(known: Sequence[ModuleState], name: str) -> ModuleState:
        wanted = name.strip().rstrip("/").rpartition("/")[2].lower()
        for module in known:
            if wanted in (module.name.lower(), module.label.lower(), module.title.lower()):
                return module
        names = [module.name for module in known]
        raise WrongUse("module-unknown", f"This host has no module {name!r}.", did_you_mean(name, names))

    def find(self, name: str) -> str:
        """Return the module's name from any of its spellings or its title; raises WrongUse naming the nearest."""
        return self.state(name).name

    def folder(self, module: str) -> str:
        """Return where a module lies, relative to the root."""
        return self.state(module).folder

    # -- to register them -------------------------------------------------------------------------------------------

    #  whether it is known how the host registers modules
    registers = True
    #  whether the address under which a module's pages go is chosen when it is switched on
    takes_address = False

    @abstractmethod
    def switch_on(self, module: str, at: str | None) -> Edit:
        """Return the edits that register a module; ``at`` is the address under which its pages go."""

    @abstractmethod
    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return the edits that take a module out of the registration.

        for_good -- the module is to be removed: take away whatever names it
        """

    def start_up(self) -> StartUp:
        """Start the host once, as it stands, and tell what it says; nothing is changed.

        Unless a kit says otherwise it was not asked.
        """
        return StartUp(False)

    # -- to check and serve them ------------------------------------------------------------------------------------

    @abstractmethod
    def check(self, modules: Sequence[str], live: bool) -> SetupCheck:
        """Return ladder and findings of the modules (all when empty)."""

    @abstractmethod
    def serve_command(self, port: int) -> list[str]:
        """Return the command that runs the host on a loopback port."""

    def serve_environment(self, port: int) -> dict[str, str]:
        """Return what the environment of that command holds beside: for servers that are told their port there."""
        return {}

    @abstractmethod
    def addresses(self, module: str) -> list[str]:
        """Return the paths of a module's pages as the host's files tell them."""

    def finding(self, code: str, module: str, file: str = "", line: int = 0, **values: object) -> Finding:
        """Make a finding of one of the kit's rules; ``place`` is filled in."""
        values.setdefault("place", f"{file}:{line}" if line else file)
        return self.data.rules.finding(code, module, file, line, **values)

    def rests_on(self) -> RestsOn | None:
        """Return what ``check`` without the running host rests on; None, as here, where that cannot be told."""
        return None

    def stale_servers(self) -> list[int]:
        """Return the processes of servers of this host that are older than its files and do not reload."""
        return []

    def mend(self, finding: Finding) -> Mend:
        """Return the mend of a finding whose rule says that it is mendable; raises Refused where it is not safe."""
        raise Refused("not-mendable", f"{finding.code} is not mended by itself.", finding.mend)

    def secrets(self) -> set[str]:
        """Return the values that the files of the host's settings give to what is a secret by its name."""
        from .secrets import secrets_in_files

        return secrets_in_files(self.settings_files())

    def settings_files(self) -> list[Path]:
        """Return the files that hold the host's settings, and with them its secrets."""
        return []

    # -- to run the modules' own tests ------------------------------------------------------------------------------

    def test_files(self, module: str) -> list[str]:
        """Return the files of a module that hold tests, relative to the root."""
        return []

    def test_programs(self, modules: Sequence[str], project: Sequence[Path]) -> list[TestProgram]:
        """Return what runs the own tests of modules, in as few starts as can be.

        project -- the folders above the host that belong to its project

        Raises HostFailed where the host cannot be run, and Refused where it is not known what runs the tests.
        """
        raise Refused(
            "tests-unknown",
            f"It is not known how {self.data.title} hosts run a module's own tests.",
            "Run them by hand.",
        )

    def never_found(self, module: str, file: str, form: TestForm) -> NeverFound:
        """Return why a runner finds no test in a file of a module; ``form`` is what it takes for tests."""
        return NeverFound(file, "the runner took no test from it", "Look which files it takes.", False)

    def failing_test(self, module: str) -> tuple[str, bytes] | None:
        """Return a test that must fail, as path below the root and content; None where none can be put in."""
        return None

    # -- to make parts ----------------------------------------------------------------------------------------------

    def check_name(self, name: NameFamily) -> None:
        """Raise WrongUse or Refused when a new module cannot have this name: the kit's law, or one that is there."""
        law = self.data.facts.naming
        label = self.label(name)
        if not re.fullmatch(law.pattern, label) or label in law.taken or len(label) > law.longest:
            reason = "the host keeps it for itself" if label in law.taken else "it breaks the naming law"
            raise WrongUse("name-taken", f"A module cannot be named {label}: {reason}.", "Say --internal NAME.")
        if any(module.name == label for module in self.modules()):
            raise Refused("name-taken", f"This host has a module {label} already.", "Choose another name.")

    def label(self, name: NameFamily) -> str:
        """Return a name in the spelling of the host: ``spelling`` of the kit is a property of name families."""
        return str(getattr(name, self.data.facts.naming.spelling))

    @abstractmethod
    def compose(self, brief: Brief, place: ModuleFolder) -> ChangeSet:
        """Return the change set that makes a module of a brief."""

    def tidied(self, made: Sequence[ChangeSet]) -> list[ChangeSet]:
        """Return change sets that make modules with their code in the project's own style; one call for all of them."""
        return list(made)

    @abstractmethod
    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module: path below its folder, and content.

        last -- another brief of it with all its files, from which those are taken that come out the same

        Raises WrongUse for what the host cannot carry. Files that only ever follow one another are not among them.
        """

    @abstractmethod
    def read_brief(self, module: str) -> ReadBrief:
        """Return the brief that a module's files tell, whether it has one written down or not."""

    def migrations(self, module: str, before: Brief, after: Brief, changed: Mapping[str, bytes]) -> dict[str, bytes]:
        """Return the further files that lead from one brief of a module to another, such as migrations.

        changed -- the module's files that change with it, as they will stand: path below its folder, and content

        Raises WrongUse or Refused where the step cannot be made.
        """
        return {}

    @property
    def drops_what_is_gone(self) -> bool:
        """True where settling takes away tables and columns that the brief names no longer."""
        return False

    @property
    def record_renamed(self) -> str:
        """What becomes of the rows of a record that has another name in the brief: a clause on ``{old}``, ``{new}``."""
        return "the rows of {old} stay in the table of that name, and {new} begins with none"

    def carry(self, path: str, current: bytes, before: bytes, after: bytes) -> bytes:
        """Return the content of a module's file with a change of what is generated carried into it.

        Here by the syntax that ``merges`` of the kit says for the file's ending. Raises NotCarried, naming the line.
        """
        from ...edits.carrying import MERGES, carry

        return carry(path, current, before, after, {**MERGES, **self.data.facts.merges})

    def into_package(
        self, module: str, path: str, name: str, was: bytes, content: bytes, read: Callable[[str], bytes | None]
    ) -> dict[str, bytes]:
        """Carry a change of a generated file into what a module has in its place; nothing where it has nothing.

        That is a package in the place of a file, or a file of another name.

        path -- the file's, below the module's folder; name -- of the part that is added; empty where there are several
        was, content -- the file as it was generated without the part, and with it
        read -- gives the content of a file of the module; None for one that is not there

        Returns the files that change: path below the module's folder, and content. Raises NotCarried.
        """
        return {}

    def grows_from_nothing(self, path: str) -> bool:
        """True for a file into which what is new can be carried while it is not there yet."""
        from ...edits.carrying import MERGES, grows_from_nothing

        return grows_from_nothing(path, {**MERGES, **self.data.facts.merges})

    def placements(self, module: str, before: Brief, after: Brief) -> ChangeSet:
        """Return the edits outside of a module's folder that its new brief asks for, as far as it is switched on."""
        return ChangeSet(f"place the blocks of {module}")

    def refuse_unseen(self, placements: Sequence[Placement]) -> None:
        """Raise WrongUse for a placement where this host has no such place, Refused for one that no page draws."""

    def needs(self, module: str) -> list[str]:
        """Return what a module's brief says that it needs."""
        try:
            return list(self.read_brief(module).brief.needs)
        except SproutError:
            return []

    def names_to_need(self) -> frozenset[str]:
        """Return the names of all modules that another one can need: the host's own, and those that packages bring."""
        return frozenset(name for one in self.modules() for name in (one.name, one.label))

    # -- to explain -------------------------------------------------------------------------------------------------

    def graph(self) -> ModuleGraph:
        """Return the host's own modules and what they need of each other: what their briefs say."""
        from ...core.graphs import ModuleGraph, Need, Node

        known = self.modules()
        nodes = [Node(one.name, one.title, one.registered, number) for number, one in enumerate(known)]
        needs = [Need(one.name, need, True, False, one.folder) for one in known for need in self.needs(one.name)]
        return ModuleGraph(nodes, needs)

    def show(self, what: str, module: str, live: bool) -> Table:
        """Return the table of routes, rights, order or placements of a module; raises HostFailed when asked live.

        Raises Refused for what the kit does not show; here that is all but order and routes.
        """
        from ...core.tables import Table

        if what == "order":
            rows: list[tuple[str, ...]] = [(str(number), one, "") for number, one in enumerate(self.graph().order(), 1)]
            return Table("order", ("number", "name", "state"), rows, [])
        if what == "routes":
            return Table("addresses", ("address",), [(path,) for path in self.addresses(module)], [])
        raise Refused(
            "not-shown", f"The {self.data.title} kit does not show {what}.", "Known here: order, routes, files, rules."
        )

    def why(self, module: str, what: str | None, person: str) -> Answer:
        """Return every condition for a thing of a module to be seen by a person; raises WrongUse for unknown ones.

        Here these are the rungs of the module.
        """
        from ...core.conditions import Answer, Condition

        checked = self.check([module], live=True).modules[0]
        conditions = tuple(
            Condition(
                str(step.rung),
                step.state,
                step.evidence,
                next((one.mend for one in checked.findings if one.rung is step.rung), ""),
            )
            for step in checked.ladder.steps
        )
        stops = checked.ladder.stops_at
        now = f"it stops at {stops.rung}" if stops else "served"
        return Answer(self.find(module), what or "the module", person, checked.healthy, now, conditions)

    # -- to keep state beside files ---------------------------------------------------------------------------------

    def set_enabled(self, module: str, on: bool) -> list[StepRun]:
        """Switch a module on or off in the host's own state, such as its database, where files alone do not say it.

        What is switched on is settled with it. The edits of ``switch_on`` are made before it, those of ``switch_off``
        after it. Nothing is done, and nothing returned, where it is so already. Raises HostFailed, and Refused where
        other modules would be harmed.
        """
        return []

    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        """Carry out the refresh steps that are due for the modules (all when empty); raises HostFailed.

        samples -- load their sample data as well, as far as it is not there
        """
        return []

    def kept_data(self, module: str) -> dict[str, int]:
        """Return the rows that a module keeps, by table; raises HostFailed."""
        return {}

    def carry_data(
        self, module: str, renaming: Renaming, moves: Mapping[str, str], files: Mapping[str, bytes]
    ) -> dict[str, bytes]:
        """Return the files that carry what the host keeps of a module over to another name: path and content.

        moves -- the files that get another path; files -- those that change, as they will stand, by their new paths

        Raises Refused where there is data that cannot be carried. Unless ``carry_state`` carries it, that is here any
        data, and whatever the host holds of a module that is switched on in its own state.
        """
        if self.carries_state:
            return {}
        rows = {table: count for table, count in self.kept_data(module).items() if count}
        if rows or self._state(self.facts(True).modules, module).enabled:
            what = f"rows in {', '.join(rows)}" if rows else "state that the host keeps"
            raise Refused(
                "data-not-carried",
                f"{module} has {what}, which {self.data.title} hosts are not made to carry to another name; nothing "
                "was changed.",
                "Disable it and take its data away first, or keep the name.",
            )
        return {}

    #  whether ``carry_state`` gives what the host keeps the new name: it is then called before the host starts with it
    carries_state = False

    def carry_state(self, module: str, changed: Identifiers) -> list[StepRun]:
        """Carry what the host keeps of a module in its own state over to the name that its files have now.

        module -- its new name; changed -- the identifiers that changed in its files

        Here that is to settle it where it is registered. Raises HostFailed with nothing changed.
        """
        return self.settle([module]) if self.state(module).registered else []

    def for_copy(self, path: str, content: bytes) -> bytes:
        """Return a file of a module as it stands in a copy of it, which has no past: here as it is."""
        return content

    def try_drop(self, module: str) -> None:
        """Try on a copy, or as far as that goes by asking, whether a module's tables can be taken away.

        Nothing of the host is changed. Raises HostFailed, and Refused where others would lose data.
        """

    def save_rows(self, module: str, rows_file: Path) -> int:
        """Write a module's rows to a file that is there and private; returns how many it holds when read back.

        Raises HostFailed.
        """
        return 0

    def drop_data(self, module: str) -> list[StepRun]:
        """Take a module's tables away; raises HostFailed."""
        return []

    def leftovers(self, module: str) -> list[str]:
        """Tell what the host keeps of a module whose tables are gone, as far as it can be asked, a sentence each."""
        return []

    #  whether the host can be asked what it keeps of a module beside its tables
    knows_leftovers = False

    def drop_leftovers(self, module: str, keep_in: Path) -> list[StepRun]:
        """Take away what ``leftovers`` tells, written to a file before; raises HostFailed."""
        return []

    def load_rows(self, module: str, rows_file: Path) -> None:
        """Make a module's tables anew and put the rows of a file back; raises HostFailed."""

    # -- to keep content, to be packed and to be copied -------------------------------------------------------------

    def take_content(self, module: str) -> TakenContent:
        """Return a module's content, its records and pages, as files; raises HostFailed, Refused where it has none."""
        raise Refused("no-content", f"The {self.data.title} kit takes no content.", "Use the host's own export.")

    def put_content(self, module: str, folder: Path, keep: bool) -> PutContent:
        """Put the content of a folder into the host's database.

        keep -- False to find out what would be done, and take it all back

        Raises HostFailed with nothing changed, and Refused where hosts of the kind keep none.
        """
        raise Refused("no-content", f"The {self.data.title} kit puts no content.", "Use the host's own import.")

    def install(self, archive: Path) -> tuple[str, list[StepRun]]:
        """Install a module from an archive over the host's own installer; returns its name and what was done.

        Asked for only where the kit says how modules are packed (``[pack]``). Raises HostFailed where it refuses.
        """
        raise Refused("not-packed", f"{self.data.title} hosts take no archives of modules.", "Ship it as a package.")

    def sandboxed(self, folder: Path) -> Host:
        """Return the same host as a copy in another folder, which never touches the real one's database."""
        return type(self)(folder, self.data, self.options)
