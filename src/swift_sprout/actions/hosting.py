"""Opening the host that a command works on."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple, Protocol, TypeVar

from ..core.errors import WrongUse
from ..core.masking import learn_from
from ..core.project import Project
from ..core.refresh import refreshes
from ..disk.earlier import has_earlier_state
from ..disk.guard import note_afresh
from ..disk.journal import Journal
from ..disk.lock import DEFAULT_WAIT_SECONDS
from ..disk.projectsettings import project_of
from ..hosts.contract.host import Host
from ..hosts.contract.kit import HostOptions, Kit, Remember
from ..hosts.registry import around, is_repository, kits, recognise, recognise_below
from ..running.inherited import kept_open
from ..running.scratch import remove_left_behind
from .checking import judging_folders

if TYPE_CHECKING:
    from ..caching.rests_on import RestsOn
    from ..core.changes import ChangeSet
    from ..core.refresh import Refresh


class HostChoice(NamedTuple):
    """Which host to work on and how: what the common options say.

    path   -- a folder in, above or below which the host lies; None for the working folder
    settings -- the settings to run the host with; None for its own choice
    leave_out -- folders of the host whose modules are neither checked nor surveyed, unless they are named
    off -- modules that are off on purpose, where that is not left to the project's file
    only_reads -- True for a command that runs nothing of the host
    runtime_of_project -- True where a file of the project names the runtime, which nobody who only reads a stranger's
                          host may run
    modules -- the folder of the modules of a host that no kit knows
    writes -- True for a command that writes into the host: it takes back what a killed run left half-written
    tell   -- is told, in sentences, what the person should know meanwhile
    """

    path: str | None = None
    kit: str | None = None
    runtime: str | None = None
    limit_seconds: float = 60.0
    wait_seconds: float = DEFAULT_WAIT_SECONDS
    tell: Callable[[str], None] = lambda sentence: None
    writes: bool = False
    settings: str | None = None
    leave_out: tuple[str, ...] = ()
    off: tuple[str, ...] = ()
    only_reads: bool = False
    runtime_of_project: bool = False
    modules: str | None = None


class OpenHost(NamedTuple):
    """A host that is open for a command, with its kit and its journal.

    taken_back -- the title of a change set that a killed run had left half-written; empty for none
    project    -- what the project says of itself
    """

    kit: Kit
    host: Host
    journal: Journal
    choice: HostChoice
    taken_back: str = ""
    project: Project = Project()

    @property
    def below(self) -> str:
        """Where the host's folder lies in its repository; empty where it is the whole of it, or in none."""
        project, _ = around(self.host.root)
        return self.host.root.relative_to(project[-1]).as_posix() if is_repository(project[-1]) and project[1:] else ""

    def left_out(self) -> set[str]:
        """Return the modules that lie in folders which are to be left out."""
        folders = [folder.strip("/") for folder in self.choice.leave_out]
        return {
            module.name
            for module in (self.host.modules() if folders else ())
            if any(f"{module.folder}/".startswith(f"{folder}/") for folder in folders)
        }

    @contextmanager
    def writing(self, purpose: str) -> Iterator[None]:
        """Hold the host's writer lock; the programs that are started meanwhile hold it as long as they run."""
        with self.journal.writing(purpose, self.choice.wait_seconds) as lock, kept_open(lock):
            yield

    def refreshes(self, changes: ChangeSet) -> list[Refresh]:
        """Return which refreshes the host needs after a change set."""
        return refreshes(self.kit.data.facts.refresh, [change.path for change in changes.changes])


class Planned(Protocol):
    """The result of a command that writes: it holds the change set."""

    @property
    def changes(self) -> ChangeSet:
        """The change set."""


Result = TypeVar("Result", bound=Planned)


def carried_out(opened: OpenHost, purpose: str, plan: Callable[[], Result], preview: bool) -> Result:
    """Return what a command plans; unless it is only a preview, the plan is made under the lock and applied."""
    if preview:
        return plan()
    with opened.writing(purpose):
        done = plan()
        if done.changes:
            opened.journal.apply(done.changes)
    return done


def open_host(choice: HostChoice) -> OpenHost:
    """Find and open the host; for a command that writes, what a killed run left half-written is taken back first.

    The nearest one above the path counts, else the only one below it; what lies above the project's repository, or in
    a person's own folder, counts after that. Raises WrongUse where there is no such one.
    """
    note_afresh()
    remove_left_behind()
    start = Path(choice.path).expanduser() if choice.path else Path.cwd()
    if not start.exists():
        raise WrongUse("path-absent", f"--host {choice.path}: there is no such folder.", "Give the host's folder.")
    start = start.resolve()
    start = start if start.is_dir() else start.parent
    project, further_up = around(start)
    if choice.modules is not None:
        found: tuple[Kit, Path] | None = _plain(start, project, choice.modules)
    else:
        found = recognise(project, choice.kit) or _below_or_above(start, further_up, choice)
    if found is None:
        known = ", ".join(f"{kit.data.title} ({kit.data.facts.recognise.file})" for kit in kits().values())
        raise WrongUse(
            "no-host",
            f"There is no host at {start}, above it or below it.",
            f"Go into a host's folder or name it with --host PATH. Known kinds: {known}.",
        )
    kit, root = found
    _choose_settings(kit, choice.settings)
    trusted = not (choice.only_reads and choice.runtime_of_project and kit.data.facts.reading_runs)
    options = HostOptions(choice.runtime if trusted else None, choice.limit_seconds, _remember(kit, root, choice))
    host = kit.open(root, options)
    journal = Journal(root, choice.tell, changed=host.look_again)
    taken_back = _left_by_others(journal, choice)
    learn_from(lambda: _secrets_of(host))
    said = project_around(root)
    if choice.off:
        said = said._replace(settings=said.settings._replace(off=choice.off))
    return OpenHost(kit, host, journal, choice, taken_back, said)


def _plain(start: Path, project: Sequence[Path], modules: str) -> tuple[Kit, Path]:
    """Return what opens a host that no kit knows, and its root: its repository, else the folder where one stands."""
    from ..hosts.plain.host import place_of
    from ..hosts.plain.kit import PlainKit

    root = project[-1] if is_repository(project[-1]) else start
    return PlainKit(place_of(root, start, modules)), root


def project_around(start: Path) -> Project:
    """Return what the project says in which a folder lies: in that folder, or in the nearest above it."""
    return project_of(around(start)[0])


def _choose_settings(kit: Kit, settings: str | None) -> None:
    """Let the host, and all that is started for it, run with the settings that were chosen; raises WrongUse."""
    variable = kit.data.facts.settings_variable
    if settings and not variable:
        raise WrongUse(
            "settings-not-taken",
            f"--settings {settings}: {kit.data.title} hosts are not told their settings by a name.",
            "Leave it out.",
        )
    if settings:
        os.environ[variable] = settings


def _below_or_above(start: Path, further_up: Sequence[Path], choice: HostChoice) -> tuple[Kit, Path] | None:
    """Return the only host below a folder, else the nearest one further up; raises WrongUse for several below."""
    found = recognise_below(start, choice.kit)
    above = recognise(further_up, choice.kit) if len(found) != 1 else None
    if above is not None:
        return above
    if len(found) > 1:
        listed = ", ".join(f"{root.relative_to(start)} ({kit.data.title})" for kit, root in found[:8])
        raise WrongUse(
            "hosts-several",
            f"There are {len(found)} hosts below {start}: {listed}.",
            f"Name one, such as --host {found[0][1].relative_to(start)}.",
        )
    return found[0] if found else None


def _secrets_of(host: Host) -> set[str]:
    """Return the values of secrets in the host's settings, but for its modules' names, which everything told names."""
    found = host.secrets()
    return found - {name for one in host.modules() for name in (one.name, one.label)} if found else found


def _left_by_others(journal: Journal, choice: HostChoice) -> str:
    """Take back what a killed run left, where the command writes; else wait for whoever writes, and say what is left.

    Returns the title of what was taken back.
    """
    for sentence in journal.others():
        choice.tell(f"{sentence}. Only a run of that user can finish or take back what it tells of.")
    if word := journal.word():
        choice.tell(word)
    if has_earlier_state(journal.root):
        choice.tell(
            "An earlier version kept its change sets in .swift-sprout/ in this host; nothing there is used. "
            "`swift-sprout undo --earlier-state` checks them and takes them over."
        )
    if choice.writes:
        return journal.recover(choice.wait_seconds)
    title = journal.unfinished(choice.wait_seconds)
    if title:
        choice.tell(
            f"An interrupted run left {title!r} half-written in this host; "
            "the next command that writes takes it back, or `swift-sprout undo`."
        )
    return ""


def _remember(kit: Kit, root: Path, choice: HostChoice) -> Remember:
    """Return what keeps the answers to questions about the files of a host."""

    def remember(question: str, rests_on: RestsOn, work: Callable[[], Any]) -> Any:
        from ..caching.remembered import remembered  # most commands ask nothing that is kept

        whole = repr((kit.data.id, str(root), choice.runtime, question))
        return remembered(whole, rests_on, judging_folders(kit), work, aside=False)

    return remember
