"""What a kit is to the rest of the program: everything above talks to hosts through these two protocols only."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Protocol

from ..core.namedtuples import NamedTuple

if TYPE_CHECKING:
    from pathlib import Path

    from ..core.brief import Brief
    from ..core.changes import ChangeSet
    from ..core.conditions import Answer
    from ..core.contents import PutContent, TakenContent
    from ..core.findings import Finding
    from ..core.graphs import ModuleGraph
    from ..core.hostfacts import ModuleState, StepRun
    from ..core.names import NameFamily
    from ..core.places import Place
    from ..core.results import SetupCheck
    from ..core.surveys import HostFacts
    from ..core.tables import Table
    from .exchange import Edit, Mend, ReadBrief, RestsOn, StartUp
    from .kitdata import KitData


#  keeps what was worked out of files from one run to the next: the question, what its answer rests on, and the work
Remember = Callable[[str, "RestsOn", Callable[[], Any]], Any]


def at_once(question: str, rests_on: RestsOn, work: Callable[[], Any]) -> Any:
    """Do the work, and keep nothing of it."""
    return work()


class HostOptions(NamedTuple):
    """How to work on a host.

    runtime       -- the interpreter or program that was given for it
    limit_seconds -- the time that a host may take to answer
    remember      -- what keeps the answers to questions about files
    """

    runtime: str | None = None
    limit_seconds: float = 60.0
    remember: Remember = at_once


class Host(Protocol):
    """One installed host of a kit's kind. Methods raise ``SproutError`` only."""

    root: Path

    def facts(self, live: bool) -> HostFacts:
        """Tell what ``survey`` shows; ``live`` asks the running host as well."""

    def places(self) -> list[Place]:
        """Return the folders for modules, the best for a new one first."""

    def modules(self) -> list[ModuleState]:
        """Return the modules that the host's files show."""

    def find(self, name: str) -> str:
        """Return the module's name from any of its spellings or its title; raises WrongUse naming the nearest."""

    def check_name(self, name: NameFamily) -> None:
        """Raise WrongUse or Refused when a new module cannot have this name here."""

    def compose(self, brief: Brief, place: Place) -> ChangeSet:
        """Return the change set that makes a module of a brief."""

    def folder(self, module: str) -> str:
        """Return where a module lies, relative to the root."""

    def read_brief(self, module: str) -> ReadBrief:
        """Return the brief that a module's files tell, whether it has one written down or not."""

    def generate(
        self, module: str, brief: Brief, last: tuple[Brief, Mapping[str, bytes]] | None = None
    ) -> dict[str, bytes]:
        """Return the files that a brief makes of a module: path below its folder, and content.

        last -- another brief of it with all its files, from which those are taken that come out the same

        Raises WrongUse for what the host cannot carry. Files that only ever follow one another are not among them.
        """

    def lead(self, module: str, before: Brief, after: Brief, changed: Mapping[str, bytes]) -> dict[str, bytes]:
        """Return the further files that lead from one brief of a module to another, such as migrations.

        changed -- the module's files that change with it, as they will stand: path below its folder, and content

        Raises WrongUse or Refused where the step cannot be made.
        """

    def place(self, module: str, before: Brief, after: Brief) -> ChangeSet:
        """Return the edits outside of a module's folder that its new brief asks for, as far as it is switched on."""

    def show(self, what: str, module: str, live: bool) -> Table:
        """Return the table of routes, rights, order or placements of a module; raises HostFailed when asked live."""

    def graph(self) -> ModuleGraph:
        """Return the host's own modules and what they need of each other."""

    def kept_data(self, module: str) -> dict[str, int]:
        """Return the rows that a module keeps, by table; raises HostFailed."""

    def try_drop(self, module: str) -> None:
        """Try on a copy, or as far as that goes by asking, whether a module's tables can be taken away.

        Nothing of the host is changed. Raises HostFailed, and Refused where others would lose data.
        """

    def save_rows(self, module: str, rows_file: Path) -> int:
        """Write a module's rows to a file that is there and private; returns how many it holds when read back.

        Raises HostFailed.
        """

    def drop_data(self, module: str) -> list[StepRun]:
        """Take a module's tables away; raises HostFailed."""

    def load_rows(self, module: str, rows_file: Path) -> None:
        """Make a module's tables anew and put the rows of a file back; raises HostFailed."""

    def switch_on(self, module: str, at: str | None) -> Edit:
        """Return the edits that register a module; ``at`` is the address under which its pages go."""

    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return the edits that take a module out of the registration.

        for_good -- the module is to be removed: take away whatever names it
        """

    def start_up(self) -> StartUp:
        """Start the host once, as it stands, and tell what it says; nothing is changed."""

    def turn(self, module: str, on: bool) -> list[StepRun]:
        """Switch a module on or off in the host's own state, such as its database, where files alone do not say it.

        What is switched on is settled with it. The edits of ``switch_on`` are made before it, those of ``switch_off``
        after it. Nothing is done, and nothing returned, where it is so already. Raises HostFailed, and Refused where
        other modules would be harmed.
        """

    def settle(self, modules: Sequence[str], samples: bool = False) -> list[StepRun]:
        """Carry out the refresh steps that are due for the modules (all when empty); raises HostFailed.

        samples -- load their sample data as well, as far as it is not there
        """

    def check(self, modules: Sequence[str], live: bool) -> SetupCheck:
        """Return ladder and findings of the modules (all when empty)."""

    def secrets(self) -> set[str]:
        """Return the values that the files of the host's settings give to what is a secret by its name."""

    def settings_files(self) -> list[Path]:
        """Return the files that hold the host's settings, and with them its secrets."""

    def rests_on(self) -> RestsOn | None:
        """Return what ``check`` without the running host rests on; None where that cannot be told."""

    def stale_servers(self) -> list[int]:
        """Return the processes of servers of this host that are older than its files and do not reload."""

    def mend(self, finding: Finding) -> Mend:
        """Return the mend of a finding whose rule says that it is mendable; raises Refused where it is not safe."""

    def why(self, module: str, what: str | None, person: str) -> Answer:
        """Return every condition for a thing of a module to be seen by a person; raises WrongUse for unknown ones."""

    def take_content(self, module: str) -> TakenContent:
        """Return a module's content, its records and pages, as files; raises HostFailed, Refused where it has none."""

    def put_content(self, module: str, folder: Path, keep: bool) -> PutContent:
        """Put the content of a folder into the host's database.

        keep -- False to find out what would be done, and take it all back

        Raises HostFailed with nothing changed, and Refused where hosts of the kind keep none.
        """

    def install(self, archive: Path) -> tuple[str, list[StepRun]]:
        """Install a module from an archive over the host's own installer; returns its name and what was done.

        Asked for only where the kit says how modules are packed (``[pack]``). Raises HostFailed where it refuses.
        """

    def sandboxed(self, folder: Path) -> Host:
        """Return the same host as a copy in another folder, which never touches the real one's database."""

    def serve_command(self, port: int) -> list[str]:
        """Return the command that runs the host on a loopback port."""

    def addresses(self, module: str) -> list[str]:
        """Return the paths of a module's pages as the host's files tell them."""


class Kit(Protocol):
    """All we know of one host kind."""

    data: KitData

    def recognises(self, folder: Path) -> bool:
        """True when a folder is the root of a host of this kind."""

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the kit's Brindle Quay host in an empty folder, ready to be worked on.

        Returns how to work on it: the options with the interpreter that was found. Raises HostFailed where it cannot
        be built here, and Refused when the kit has no demo.
        """
