"""What a host can do whatever its kind: a small kit takes this as a base and says only what is its own.

A host must say ``modules``, ``switch_on``, ``switch_off``, ``judge``, ``serve_command``, ``addresses`` and ``values``;
all else has a working answer here, or refuses with the reason.
"""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.brief import BRIEF_FILE, Brief, brief_from_toml
from ..core.brieftext import brief_text
from ..core.changes import ChangeSet
from ..core.errors import Refused, SproutError, WrongUse
from ..core.graphs import ModuleGraph, Need, Node
from ..core.hostfacts import Missing, ModuleState, StepRun
from ..core.nearest import did_you_mean
from ..core.places import Place
from ..core.results import ModuleCheck, SetupCheck
from ..core.surveys import HostFacts
from ..core.tables import Table
from .exchange import Edit, Mend, ReadBrief, RestsOn, StartUp
from .folderkit import FolderKit
from .protocol import HostOptions
from .refusing import WithoutContent

if TYPE_CHECKING:
    from ..core.conditions import Answer
    from ..core.findings import Finding
    from ..core.ladder import Rung, State
    from ..core.names import NameFamily
    from .kitdata import KitData

Seen = dict["Rung", tuple["State", str]]


class BaseHost(WithoutContent, ABC):
    """One installed host at ``root``; ``data`` is its kit's data."""

    def __init__(self, root: Path, data: KitData, options: HostOptions) -> None:
        self.root = root
        self.data = data
        self.options = options

    # -- what a kit says ------------------------------------------------------------------------------------------

    @abstractmethod
    def modules(self) -> list[ModuleState]:
        """Return the modules that the host's files show."""

    @abstractmethod
    def switch_on(self, module: str, at: str | None) -> Edit:
        """Return the edits that register a module."""

    @abstractmethod
    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return the edits that take a module out of the registration."""

    @abstractmethod
    def judge(self, modules: Sequence[str], live: bool, result: SetupCheck) -> Iterable[ModuleCheck]:
        """Yield the check of each module; what concerns the host as a whole goes into the result."""

    @abstractmethod
    def serve_command(self, port: int) -> list[str]:
        """Return the command that runs the host on a loopback port."""

    @abstractmethod
    def addresses(self, module: str) -> list[str]:
        """Return the paths of a module's pages."""

    @abstractmethod
    def values(self, brief: Brief) -> dict[str, Any]:
        """Return all values that the kit's templates take of a brief."""

    # -- what a kit may say otherwise -----------------------------------------------------------------------------

    @property
    def version(self) -> str:
        """The host's version; empty where it is not known."""
        return ""

    @property
    def runtime(self) -> tuple[str, str]:
        """What runs the host, and how that was found; empty where there is nothing of the sort."""
        return "", ""

    def missing(self) -> list[Missing]:
        """Return what is missing to work on the host here."""
        return []

    def places(self) -> list[Place]:
        """Return the folders for modules; ``modules_folder`` of the kit, or the host's folder."""
        folder = self.data.facts.modules_folder
        return [Place(folder, "", "where the host looks for modules")]

    def facts(self, live: bool) -> HostFacts:
        """Tell what survey shows."""
        facts = HostFacts(self.data.id, self.data.title, str(self.root), self.version)
        facts.runtime, facts.runtime_origin = self.runtime
        facts.places, facts.modules, facts.missing = self.places(), self.modules(), self.missing()
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
        """Return a module's name from any of its spellings."""
        return self.state(name).name

    def folder(self, module: str) -> str:
        """Return where a module lies."""
        return self.state(module).folder

    def check_name(self, name: NameFamily) -> None:
        """Raise when a new module cannot have this name: the kit's law, and the modules that are there."""
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

    def compose(self, brief: Brief, place: Place) -> ChangeSet:
        """Return the change set that makes a module of a brief."""
        from .making import free_folder, making

        label = self.label(brief.name)
        folder = free_folder(self.root, place, label)
        return making(self.data, label, folder, self.generate(label, brief), {})

    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module."""
        from .generating import files_of

        before = (self.values(last[0]), last[1]) if last is not None else None
        files = {BRIEF_FILE: brief_text(brief).encode("utf-8")}
        return files | files_of(self.data, self.label(brief.name), self.values(brief), before)

    def read_brief(self, module: str) -> ReadBrief:
        """Return the brief that a module has written down; one without is told to have only a name."""
        state = self.state(module)
        path = self.root / state.folder / BRIEF_FILE
        if path.is_file():
            return ReadBrief(brief_from_toml(path.read_text("utf-8"), f"{state.folder}/{BRIEF_FILE}"), [], {})
        from ..core.names import name_family

        name = name_family(state.title, internal=state.label)
        return ReadBrief(Brief(name), [(state.folder, f"the {self.data.title} kit reads no parts from files")], {})

    def lead(self, module: str, before: Brief, after: Brief, changed: Mapping[str, bytes]) -> dict[str, bytes]:
        """Return nothing: no further files lead from one brief to another."""
        return {}

    def place(self, module: str, before: Brief, after: Brief) -> ChangeSet:
        """Return no edits outside of a module's folder."""
        return ChangeSet(f"place the blocks of {module}")

    def needs(self, module: str) -> list[str]:
        """Return what a module's brief says that it needs."""
        try:
            return list(self.read_brief(module).brief.needs)
        except SproutError:
            return []

    def graph(self) -> ModuleGraph:
        """Return the modules and what their briefs say that they need."""
        known = self.modules()
        nodes = [Node(one.name, one.title, one.registered, number) for number, one in enumerate(known)]
        needs = [Need(one.name, need, True, False, one.folder) for one in known for need in self.needs(one.name)]
        return ModuleGraph(nodes, needs)

    def show(self, what: str, module: str, live: bool) -> Table:
        """Return the order of the modules, or the addresses of one; raises Refused for what the kit does not show."""
        if what == "order":
            rows: list[tuple[str, ...]] = [(str(number), one, "") for number, one in enumerate(self.graph().order(), 1)]
            return Table("order", ("number", "name", "state"), rows, [])
        if what == "routes":
            return Table("addresses", ("address",), [(path,) for path in self.addresses(module)], [])
        raise Refused(
            "not-shown", f"The {self.data.title} kit does not show {what}.", "Known here: order, routes, files, rules."
        )

    def kept_data(self, module: str) -> dict[str, int]:
        """Return nothing: modules of this kind keep no rows."""
        return {}

    def try_drop(self, module: str) -> None:
        """Do nothing: modules of this kind keep no rows."""

    def save_rows(self, module: str, rows_file: Path) -> int:
        """Write nothing: modules of this kind keep no rows."""
        return 0

    def drop_data(self, module: str) -> list[StepRun]:
        """Do nothing: modules of this kind keep no rows."""
        return []

    def load_rows(self, module: str, rows_file: Path) -> None:
        """Do nothing: modules of this kind keep no rows."""

    def start_up(self) -> StartUp:
        """Tell that the host was not asked: how it starts is not known."""
        return StartUp(False)

    def turn(self, module: str, on: bool) -> list[StepRun]:
        """Do nothing: files alone say what is switched on."""
        return []

    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        """Do nothing: no refresh step is ever due."""
        return []

    def check(self, modules: Sequence[str], live: bool) -> SetupCheck:
        """Return ladder and findings of the modules."""
        result = SetupCheck("real", live, self.version)
        known = self.modules()
        names = [self._state(known, name).name for name in modules] or [one.name for one in known]
        result.modules = list(self.judge(names, live, result))
        return result

    def finding(self, code: str, module: str, file: str = "", line: int = 0, **values: object) -> Finding:
        """Make a finding of one of the kit's rules; ``place`` is filled in."""
        values.setdefault("place", f"{file}:{line}" if line else file)
        return self.data.rules.finding(code, module, file, line, **values)

    def secrets(self) -> set[str]:
        """Return the values of secrets that the files of the settings write out."""
        from .secrets import secrets_in_files

        return secrets_in_files(self.settings_files())

    def settings_files(self) -> list[Path]:
        """Return none: where such a host keeps its settings is not known."""
        return []

    def rests_on(self) -> RestsOn | None:
        """Return None: what such a host's check rests on is not known, so that it is done anew each time."""
        return None

    def stale_servers(self) -> list[int]:
        """Return none: the kit does not look for servers."""
        return []

    def mend(self, finding: Finding) -> Mend:
        """Refuse: the kit mends nothing by itself."""
        raise Refused("not-mendable", f"{finding.code} is not mended by itself.", finding.mend)

    def why(self, module: str, what: str | None, person: str) -> Answer:
        """Return the rungs of the module as conditions: the kit knows no finer ones."""
        from ..core.conditions import Answer, Condition

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

    def install(self, archive: Path) -> tuple[str, list[StepRun]]:
        """Refuse: hosts of this kind take no archives."""
        raise Refused("not-packed", f"{self.data.title} hosts take no archives of modules.", "Ship it as a package.")

    def sandboxed(self, folder: Path) -> BaseHost:
        """Return the same host as a copy in another folder."""
        return type(self)(folder, self.data, self.options)


class BaseKit(FolderKit):
    """A kit whose data lie in a folder; a small kit says ``host``, and the folder of its data."""

    host: type[BaseHost]

    def open(self, root: Path, options: HostOptions) -> BaseHost:
        """Return the host at a root."""
        return self.host(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Refuse: the kit brings no demo host."""
        raise Refused("no-demo", f"The {self.data.title} kit brings no demo host.", "Try --kit django.")
