"""``rename``: a module gets another name, in every spelling, in every file of the host.

What is surely the name is changed; what may be a common word is listed and left to the person. The data that the host
keeps goes with it by the host's own means, or nothing is changed. Afterwards the host is asked to start, and the files
are searched once more.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field

from ..core.changes import ChangeSet
from ..core.errors import Refused
from ..core.hostfacts import StepRun
from ..core.renaming.contents import is_text
from ..core.renaming.identifiers import Identifiers
from ..core.renaming.occurrences import Occurrence
from ..core.renaming.plan import RenamePlan
from ..core.renaming.spellings import Renaming
from ..hosts.contract.exchange import StartUp
from .hosting import OpenHost
from .naming import Naming, compiled_catalogues, files_of
from .removing import tidy_folder


@dataclass
class Renamed:
    """What ``rename`` did, or would do.

    before, after -- the module's name; plan -- what changes where; left -- where the old name stands afterwards
    there -- how often the new name stood in the files before; notes -- what keeps its name, a sentence each
    """

    before: str
    after: str
    plan: RenamePlan
    changes: ChangeSet
    steps: list[StepRun] = field(default_factory=list)
    left: list[Occurrence] = field(default_factory=list)
    there: int = 0
    notes: list[str] = field(default_factory=list)


def rename(opened: OpenHost, name: str, to: str, internal: str, take_doubtful: bool, preview: bool) -> Renamed:
    """Give a module another name.

    to, internal  -- the new title, and the internal name where that is not to be derived from it
    take_doubtful -- change what may be a common word as well

    Raises WrongUse for a name that cannot be, Refused where a file is in the way, where data cannot be carried, and
    where the host does not start any more: then everything is as before.
    """
    if preview:
        return _planned(Naming(opened, name, to, internal, take_doubtful))
    with opened.writing(f"rename {name}"):
        naming = Naming(opened, name, to, internal, take_doubtful)
        done = _planned(naming)
        before = opened.host.start_up()
        number = opened.journal.apply(done.changes)
        try:
            if opened.host.carries_state:
                done.steps = _carry_state(naming)
            if not start_as_before(opened, before) and opened.host.registers:
                done.notes.append(
                    "nothing here runs the host, so that it was not asked whether it starts; once something does, "
                    f"`swift-sprout settle {done.after}` carries the data"
                )
            elif not opened.host.carries_state:
                done.steps = _carry_state(naming)
        except BaseException:
            opened.journal.undo(number)
            if done.steps:
                _carry_state(naming, back=True)
            raise
        for step in done.steps:
            opened.journal.note(
                number, f'{step.title} (stays: `swift-sprout rename {done.after} "{naming.old.title}"` takes it back)'
            )
        _tidy(naming, done.plan)
        done.left = naming.left_in(naming.new_folder)
    return done


def start_as_before(opened: OpenHost, before: StartUp) -> bool:
    """Start the host with the new name; returns False where nothing runs it. Raises Refused for a new failure."""
    after = opened.host.start_up()
    new = [one for one in after.failures if one not in before.failures]
    if new:
        raise Refused(
            "host-stops",
            f"With the new name the host does not start as it did: {new[0].rstrip('.')}. Everything was taken back.",
            "Look at what is named there; `--preview --verbose` lists each place.",
        )
    return after.asked


def _carry_state(naming: Naming, back: bool = False) -> list[StepRun]:
    """Carry what the host keeps of the module over to its new name, or back to the old one."""
    changed = Identifiers(naming.identifiers, naming.renaming.held, naming.renaming.single)
    if back:
        return naming.opened.host.carry_state(naming.module.name, changed.back)
    return naming.opened.host.carry_state(naming.new_name, changed)


def _planned(naming: Naming) -> Renamed:
    """Return the plan and the change set that does it."""
    root = naming.opened.host.root
    registers = naming.registers()
    already = Renaming(naming.new, naming.new)
    changes = ChangeSet(f"rename {naming.module.name} to {naming.new_name}")
    moves: dict[str, str] = {}
    files: dict[str, bytes] = {}
    found: list[Occurrence] = []
    untouched: list[str] = []
    there = 0
    for file in files_of(naming.opened, naming.module.folder):
        relative = file.path
        content = file.read()
        target = naming.target(relative, is_text(content))
        after = content
        if already.may_be_in(content) and is_text(content):
            there += sum(1 for _ in already.find(content.decode("utf-8", "replace")))
        if target != relative or naming.renaming.may_be_in(content):
            after, here = naming.changed(relative, content, registers.get(relative, frozenset()))
            found += here
            if after == content and not here and naming.renaming.may_be_in(content):
                untouched.append(relative)
        if target != relative:
            if (root / target).is_file():
                raise Refused("in-the-way", f"{target} exists already; nothing was changed.", "Move it away first.")
            moves[relative] = target
            files[target] = after
            changes.add(relative, content, None)
            changes.add(target, None, after)
        elif after != content:
            files[relative] = after
            changes.add(relative, content, after)
    carried, kept = _carry(naming, changes, moves, files)
    untouched = [path for path in untouched if path in moves and moves[path] not in carried]
    sure = tuple(one for one in found if naming.take_doubtful or not one.doubtful)
    doubtful = tuple(one for one in found if one.doubtful and not naming.take_doubtful)
    plan = RenamePlan(moves, sure, doubtful, tuple(kept), tuple(untouched))
    notes = [*naming.notes, *_collapsing(sure)]
    return Renamed(naming.module.name, naming.new_name, plan, changes, there=there, notes=notes)


def _collapsing(found: Iterable[Occurrence]) -> list[str]:
    """Tell the spellings that become one: renaming back cannot part them again."""
    by_new: dict[str, set[str]] = {}
    for one in found:
        by_new.setdefault(one.after, set()).add(one.before)
    return [f"{', '.join(sorted(old))} all become {new}" for new, old in by_new.items() if len(old) > 1]


def _carry(
    naming: Naming, changes: ChangeSet, moves: Mapping[str, str], files: Mapping[str, bytes]
) -> tuple[Collection[str], list[tuple[str, str]]]:
    """Add the files that carry the data; returns which they are, and which keep the old name, and why."""
    more = compiled_catalogues(files, naming.renaming)
    more |= naming.opened.host.carry_data(naming.module.name, naming.renaming, moves, files)
    for path, content in more.items():
        if path in moves.values():
            changes.drop(path)
            changes.add(path, None, content)
        else:
            changes.add(path, files.get(path), content)
    told = [path for path, content in more.items() if any(naming.renaming.find(content.decode("utf-8", "replace")))]
    return more.keys(), [(path, "carries the data over from the old name") for path in told]


def _tidy(naming: Naming, plan: RenamePlan) -> None:
    """Take away folders that are empty now, and byte code in them."""
    root = naming.opened.host.root
    tidy_folder(naming.module.path)
    for path in plan.moves:
        for folder in (root / path).parents:
            if folder == root or not folder.is_dir() or any(folder.iterdir()):
                break
            folder.rmdir()
