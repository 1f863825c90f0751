"""A folder of sibling modules behind the contract: named, renamed and copied; never said to be served."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ...core.changes import ChangeSet
from ...core.errors import Refused, WrongUse
from ...core.hostfacts import ModuleState
from ...core.ladder import Rung, State
from ...core.modulefolders import ModuleFolder
from ...core.names import words_of
from ...core.nearest import near_text
from ...disk.walking import written_files
from ..contract.exchange import Edit
from ..shared.base import BaseHost
from ..shared.judging import judged
from .reading import Listing, files_in_common, listings, sibling_folders

if TYPE_CHECKING:
    from collections.abc import Iterator

    from ...core.brief import Brief
    from ...core.conditions import Answer
    from ...core.findings import Finding
    from ...core.names import NameFamily
    from ...core.results import ModuleCheck, SetupCheck
    from ...core.surveys import HostFacts
    from ..contract.kit import HostOptions
    from ..contract.kitdata import KitData

FEWEST = 3  # siblings from which a form that all others share is one


class PlainHost(BaseHost):
    """The host at a root; ``place`` is the folder of its modules, below the root."""

    def __init__(self, root: Path, data: KitData, options: HostOptions, place: str) -> None:
        super().__init__(root, data, options)
        self.place = place

    def sandboxed(self, folder: Path) -> PlainHost:
        """Return the same host as a copy in another folder."""
        return PlainHost(folder, self.data, self.options, self.place)

    registers = False
    carries_state = True  # nothing is known of what it keeps beside its files

    def look_again(self) -> None:
        """Forget what was read of the folders."""
        for name in ("names", "files", "lists"):
            self.__dict__.pop(name, None)

    @cached_property
    def names(self) -> list[str]:
        """The names of the modules' folders."""
        return sibling_folders(self.root / self.place, self.data.facts.sources.skipped)

    @cached_property
    def files(self) -> dict[str, dict[str, str]]:
        """Which modules have each file, by its path with a mark for the module's name."""
        return files_in_common(self.root / self.place, self.names, self.data.facts.sources.skipped)

    @cached_property
    def lists(self) -> list[Listing]:
        """The lists elsewhere in the host that name the modules."""
        files = written_files(self.root, self.data.facts.sources.skipped)
        return listings(self.place, self.names, files)

    def modules(self) -> list[ModuleState]:
        """Return the sibling folders."""
        start = "" if self.place == "." else f"{self.place}/"
        return [
            ModuleState(name, name, " ".join(words_of(name)[0]).capitalize(), "", f"{start}{name}", True, None, None)
            for name in self.names
        ]

    def module_folders(self) -> list[ModuleFolder]:
        """Return the folder of the modules."""
        return [ModuleFolder(self.place, "", "named with --modules")]

    def facts(self, live: bool) -> HostFacts:
        """Tell what the siblings have in common, and where they are named."""
        facts = super().facts(live)
        everywhere = sorted(path for path, holders in self.files.items() if len(holders) == len(self.names) > 1)
        if everywhere:
            shown = ", ".join(one.replace("\0", "NAME") for one in everywhere[:8])
            facts.notes.append(f"files that all of them have: {shown}")
        for one in self.lists:
            line = next(iter(one.entries.values())).line
            facts.notes.append(f"{one.path}:{line} and the lines like it name {len(one.entries)} of {len(self.names)}")
        return facts

    def label(self, name: NameFamily) -> str:
        """Return a name as most of the siblings spell theirs."""
        ways = Counter(_way_of(one) for one in self.names if len(words_of(one)[0]) > 1)
        return str(getattr(name, ways.most_common(1)[0][0] if ways else "snake"))

    def switch_on(self, module: str, at: str | None) -> Edit:
        """Refuse: how such a host registers a module is not known."""
        raise _not_known("enabled")

    def switch_off(self, module: str, for_good: bool = False) -> Edit:
        """Return the lines of the lists that name a module, taken out."""
        edit = Edit(ChangeSet(f"take out {module}"))
        out: dict[str, set[int]] = {}
        for one in self.lists:
            if module in one.entries:
                out.setdefault(one.path, set()).add(one.entries[module].line)
        for path, numbers in out.items():
            before = (self.root / path).read_bytes()
            lines = before.splitlines(keepends=True)
            kept = b"".join(line for number, line in enumerate(lines, 1) if number not in numbers)
            edit.changes.add(path, before, kept)
        return edit

    def serve_command(self, port: int) -> list[str]:
        """Refuse: how such a host is run is not known."""
        raise _not_known("served")

    def addresses(self, module: str) -> list[str]:
        """Return nothing: such a host's addresses are not known."""
        return []

    def why(self, module: str, what: str | None, person: str) -> Answer:
        """Refuse: what such a host asks before it shows a thing is not known."""
        raise _not_known("explained")

    def values(self, brief: Brief) -> dict[str, Any]:
        """Refuse: there are no templates for such a host."""
        raise Refused(
            "no-templates",
            "Modules of a host that no kit knows are made after one that is there.",
            'Use --like, such as: swift-sprout new "Name" --like MODULE --modules FOLDER',
        )

    def judge(self, modules: Sequence[str], live: bool, result: SetupCheck) -> Iterable[ModuleCheck]:
        """Yield what each module lacks that its siblings have; whether it is served is never said."""
        result.notes.append("nothing of this host is run: only names and files are compared")
        result.host_findings += [finding for one in self.lists for finding in self._without_folder(one)]
        for name in modules:
            lacking, unlisted = list(self._lacking(name)), list(self._unlisted(name))
            state = self.state(name)
            seen = {Rung.FOUND: (State.PASS, state.folder)}
            shared = [path for path, holders in self.files.items() if len(holders) >= max(FEWEST, len(self.names) - 1)]
            if shared and not lacking:
                seen[Rung.DESCRIBED] = (State.PASS, f"it has the {len(shared)} files that its siblings have")
            listed = [one.path for one in self.lists if name in one.entries]
            if listed and not unlisted:
                seen[Rung.REGISTERED] = (State.PASS, f"it stands in {', '.join(dict.fromkeys(listed))}")
            yield judged(name, state.title, [*lacking, *unlisted], seen)

    def _lacking(self, name: str) -> Iterator[Finding]:
        for path, holders in self.files.items():
            if name not in holders and len(holders) == len(self.names) - 1 >= FEWEST:
                sibling, there = next(iter(holders.items()))
                state = self.state(name)
                yield self.finding(
                    "described.lacks-file", name, state.folder, file_name=path.replace("\0", "NAME"),
                    count=len(holders), sibling=sibling, place_there=f"{self.state(sibling).folder}/{there}",
                )  # fmt: skip

    def _unlisted(self, name: str) -> Iterator[Finding]:
        for one in self.lists:
            if name not in one.entries and len(one.entries) == len(self.names) - 1 >= FEWEST:
                sibling, entry = next(iter(one.entries.items()))
                yield self.finding(
                    "registered.not-in-list", name, one.path, entry.line, list=one.path, sibling=sibling,
                    place_there=f"{one.path}:{entry.line}",
                )  # fmt: skip

    def _without_folder(self, listing: Listing) -> Iterator[Finding]:
        if len(listing.entries) < max(FEWEST, len(self.names) - 1):
            return  # not a list of all modules, so that other names may stand in it rightly
        for entry in listing.others:
            yield self.finding(
                "registered.no-folder", entry.name, entry.path, entry.line, list=entry.path, name=entry.name,
                near=near_text(entry.name, self.names),
            )  # fmt: skip


def _way_of(name: str) -> str:
    """Return the member of name families that a folder's name is spelled by."""
    if "-" in name:
        return "kebab"
    if "_" in name or name.islower():
        return "snake"
    return "camel" if name[:1].isupper() else "lower_camel"


def _not_known(what: str) -> Refused:
    return Refused(
        "host-not-known",
        f"Modules of a host that no kit knows cannot be {what}: how it does that is not known.",
        "Use the host's own means; survey, check, rename and new --like work here.",
    )


def place_of(root: Path, start: Path, given: str) -> str:
    """Return the folder of the modules relative to a root; raises WrongUse for one that is not there, or elsewhere."""
    folder = (start / given).resolve()
    if not folder.is_dir():
        raise WrongUse("modules-absent", f"--modules {given}: there is no such folder.", "Name the modules' folder.")
    if not folder.is_relative_to(root):
        raise WrongUse("modules-outside", f"--modules {given} lies outside of {root}.", "Name it with --host as well.")
    return folder.relative_to(root).as_posix()
