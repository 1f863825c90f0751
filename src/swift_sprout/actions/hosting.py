"""Opening the host that a command works on."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple, Protocol, TypeVar

from ..core.errors import WrongUse
from ..core.masking import learn_from
from ..core.refresh import refreshes
from ..disk.earlier import has_earlier_state
from ..disk.guard import note_afresh
from ..disk.journal import Journal
from ..disk.lock import DEFAULT_WAIT_SECONDS
from ..hosts.contract.host import Host
from ..hosts.contract.kit import HostOptions, Kit, Remember
from ..hosts.registry import kits, recognise
from ..running.inherited import kept_open
from ..running.scratch import remove_left_behind
from .checking import judging_folders

if TYPE_CHECKING:
    from ..caching.rests_on import RestsOn
    from ..core.changes import ChangeSet
    from ..core.refresh import Refresh


class HostChoice(NamedTuple):
    """Which host to work on and how: what the common options say.

    path   -- a folder in or above which the host lies; None for the working folder
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


class OpenHost(NamedTuple):
    """A host that is open for a command, with its kit and its journal.

    taken_back -- the title of a change set that a killed run had left half-written; empty for none
    """

    kit: Kit
    host: Host
    journal: Journal
    choice: HostChoice
    taken_back: str = ""

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

    Raises WrongUse when there is no host at the path or above it.
    """
    note_afresh()
    remove_left_behind()
    start = Path(choice.path).expanduser() if choice.path else Path.cwd()
    if not start.exists():
        raise WrongUse("path-absent", f"--host {choice.path}: there is no such folder.", "Give the host's folder.")
    start = start.resolve()
    found = recognise(start if start.is_dir() else start.parent, choice.kit)
    if found is None:
        known = ", ".join(f"{kit.data.title} ({kit.data.facts.recognise.file})" for kit in kits().values())
        raise WrongUse(
            "no-host",
            f"There is no host at {start} or above it.",
            f"Go into a host's folder or name it with --host PATH. Known kinds: {known}.",
        )
    kit, root = found
    options = HostOptions(choice.runtime, choice.limit_seconds, _remember(kit, root, choice))
    host = kit.open(root, options)
    journal = Journal(root, choice.tell, changed=host.look_again)
    taken_back = _left_by_others(journal, choice)
    learn_from(lambda: _secrets_of(host))
    return OpenHost(kit, host, journal, choice, taken_back)


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
