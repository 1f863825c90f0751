"""``rename``: a module gets another name, in every spelling, in every file of the host.

What is surely the name is changed; what may be a common word is listed and left to the person. The data that the host
keeps goes with it by the host's own means, or nothing is changed. Afterwards the host is asked to start, and the files
are searched once more.
"""

from __future__ import annotations

import difflib
import os
import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from ..core.changes import ChangeSet
from ..core.errors import Refused, SproutError
from ..core.hostfacts import StepRun
from ..core.made import MADE_FILE, Made
from ..core.names import NameFamily, name_family, words_of
from ..core.renaming.occurrences import Occurrence, in_path, occurrences, taken
from ..core.renaming.plan import RenamePlan
from ..core.renaming.spellings import Renaming
from .hosting import OpenHost
from .modulefiles import ModuleOnDisk

LARGEST_BYTES = 4_000_000
_NOT_READ = frozenset({".git", ".hg", ".svn", ".tox", ".nox", ".mypy_cache", ".ruff_cache", ".pytest_cache"})


@dataclass
class Renamed:
    """What ``rename`` did, or would do.

    before, after -- the module's name; plan -- what changes where; left -- where the old name stands afterwards
    there -- how often the new name stood in the files before
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
        return _Naming(opened, name, to, internal, take_doubtful).planned()
    with opened.writing(f"rename {name}"):
        naming = _Naming(opened, name, to, internal, take_doubtful)
        done = naming.planned()
        before = opened.host.start_up()
        number = opened.journal.apply(done.changes)
        try:
            opened.host.look_again()
            after = opened.host.start_up()
            new = [one for one in after.failures if one not in before.failures]
            if new:
                raise Refused(
                    "host-stops",
                    f"With the new name the host does not start as it did: {new[0].rstrip('.')}. Everything was "
                    "taken back.",
                    "Look at what is named there; `--preview --verbose` lists each place.",
                )
            if naming.was_on and after.asked:
                done.steps = opened.host.settle([done.after])
        except BaseException:
            opened.journal.undo(number)
            raise
        for step in done.steps:
            opened.journal.note(
                number, f'{step.title} (stays: `swift-sprout rename {done.after} "{naming.old.title}"` takes it back)'
            )
        naming.tidy(done.plan)
        done.left = naming.left(done)
    return done


class _Naming:
    """The renaming of one module of an open host."""

    def __init__(self, opened: OpenHost, name: str, to: str, internal: str, take_doubtful: bool) -> None:
        self._opened = opened
        self._take_doubtful = take_doubtful
        self.module = ModuleOnDisk(opened, name)
        state = opened.host.state(self.module.name)
        self.was_on = bool(state.registered)
        label = state.label or self.module.name.rpartition(".")[2]
        brief = self.module.brief
        self.old = NameFamily(brief.name.title if brief else state.title or label, words_of(label)[0])
        self.new = name_family(to, internal=internal)
        opened.host.check_name(self.new)
        parts = brief or opened.host.read_brief(self.module.name).brief
        records = [one.name for one in parts.records] + [one.name for one in parts.page_types]
        for record in records:
            if record.words == self.old.words:
                raise Refused(
                    "record-of-the-name",
                    f"{self.module.name} has a record of its own name, {record.title}; nothing was changed.",
                    "Rename the record first, in the brief: `swift-sprout refresh` carries that.",
                )
        numbers = {self.old.singular.words, self.old.plural.words}
        others = [
            NameFamily(one.title, words_of(one.label)[0])
            for one in opened.host.modules()
            if one.name != self.module.name
        ]
        joined = "-" if opened.kit.data.facts.naming.spelling == "kebab" else "_"
        apart = not any(record.words in numbers for record in records)
        self.renaming = Renaming(self.old, self.new, [*(one for one in others if one.words), *records], apart, joined)
        self._means_module = _pattern(opened.kit.data.facts.naming.means_module, label, self.old.camel)
        self.notes = [
            f"the record {one.title} keeps its name" for one in records if set(self.old.words) <= set(one.words)
        ]
        self._label = label

    def planned(self) -> Renamed:
        """Return the plan and the change set that does it."""
        root, folder = self._opened.host.root, self.module.folder
        registers = self._registers()
        changes = ChangeSet(f"rename {self.module.name} to {self._opened.host.label(self.new)}")
        moves: dict[str, str] = {}
        found: list[Occurrence] = []
        untouched: list[str] = []
        files: dict[str, bytes] = {}
        there = 0
        already = Renaming(self.new, self.new)
        for path in self._files():
            relative = path.relative_to(root).as_posix()
            inside = relative.startswith(f"{folder}/")
            target = in_path(relative, self.renaming)
            if inside:
                target = in_path(folder, self.renaming) + in_path(
                    relative[len(folder) :].lstrip("/"), self.renaming
                ).join(("/", ""))
            if not inside and target == relative and path.stat().st_size > LARGEST_BYTES:
                continue
            content = path.read_bytes()
            after: bytes | None = None
            if path.name == MADE_FILE and inside:
                after = self._made(content, relative)
            elif not _is_text(content):
                if inside or target != relative:
                    untouched.append(relative)
                after = content
            elif inside or target != relative or self.renaming.quick.search(content):
                text = content.decode("utf-8", "surrogateescape")
                here = occurrences(
                    relative, text, self.renaming, inside, registers.get(relative, frozenset()), self._means_module
                )
                found += here
                chosen = [one for one in here if self._take_doubtful or not one.doubtful]
                after = taken(text, chosen).encode("utf-8", "surrogateescape")
                there += sum(1 for _ in already.find(text))
            if target != relative:
                moves[relative] = target
                self._refuse_in_the_way(target)
                changes.add(relative, content, None)
                files[target] = content if after is None else after
                changes.add(target, None, files[target])
            elif after is not None and after != content:
                files[relative] = after
                changes.add(relative, content, after)
        carried, kept = self._carry(changes, moves, files)
        untouched = [path for path in untouched if moves.get(path) not in carried]
        sure = tuple(one for one in found if self._take_doubtful or not one.doubtful)
        doubtful = tuple(one for one in found if one.doubtful and not self._take_doubtful)
        plan = RenamePlan(moves, sure, doubtful, tuple(kept), tuple(untouched))
        return Renamed(self.module.name, self._new_name(), plan, changes, there=there, notes=self.notes)

    def _new_name(self) -> str:
        start, dot, _ = self.module.name.rpartition(".")
        return f"{start}{dot}{self._opened.host.label(self.new)}"

    def _made(self, content: bytes, place: str) -> bytes:
        """Return what was generated last, as it is generated under the new name."""
        made = Made.read(content, place)
        files: dict[str, bytes] = {}
        for path, held in made.files.items():
            if _is_text(held):
                text = held.decode("utf-8", "surrogateescape")
                here = occurrences(
                    f"{self.module.folder}/{path}", text, self.renaming, True, means_module=self._means_module
                )
                held = taken(text, [one for one in here if self._take_doubtful or not one.doubtful]).encode(
                    "utf-8", "surrogateescape"
                )
            files[in_path(path, self.renaming)] = held
        return made._replace(files=files).content()

    def _carry(
        self, changes: ChangeSet, moves: Mapping[str, str], files: dict[str, bytes]
    ) -> tuple[Collection[str], list[tuple[str, str]]]:
        """Add the files that carry the data; returns which they are, and which keep the old name, and why."""
        more = self._opened.host.carry_data(self.module.name, self.renaming, moves, files)
        for path, content in more.items():
            before = files.get(path)
            if before is None:
                changes.add(path, None, content)
            elif path in moves.values():
                changes.drop(path)
                changes.add(path, None, content)
            else:
                changes.add(path, before, content)
        told = [path for path, content in more.items() if any(self.renaming.find(content.decode("utf-8", "replace")))]
        return more.keys(), [(path, "carries the data over from the old name") for path in told]

    def _refuse_in_the_way(self, target: str) -> None:
        place = self._opened.host.root / target
        if place.exists() and not place.is_dir():
            raise Refused("in-the-way", f"{target} exists already; nothing was changed.", "Move it away first.")

    def _registers(self) -> dict[str, frozenset[int]]:
        """Return the lines by which the host registers the module, by file."""
        try:
            edit = self._opened.host.switch_off(self.module.name, for_good=True)
        except SproutError:
            return {}
        found = {}
        for change in edit.changes.changes:
            if change.before is not None and not change.path.startswith(f"{self.module.folder}/"):
                old, new = (one.decode("utf-8", "replace").splitlines() for one in (change.before, change.after or b""))
                matcher = difflib.SequenceMatcher(None, old, new, autojunk=False)
                lines = {
                    number + 1
                    for tag, start, end, _, _ in matcher.get_opcodes()
                    if tag in ("delete", "replace")
                    for number in range(start, end)
                }
                found[change.path] = frozenset(lines)
        return found

    def _files(self) -> Iterator[Path]:
        """Yield the files of the host that people write, and all of the module's own."""
        yield from written_files(self._opened, self.module.path)

    def tidy(self, plan: RenamePlan) -> None:
        """Take away folders that are empty now, and byte code in them."""
        from .removing import tidy_folder

        root = self._opened.host.root
        tidy_folder(self.module.path)
        for path in plan.moves:
            for folder in (root / path).parents:
                if folder == root or not folder.is_dir() or any(folder.iterdir()):
                    break
                folder.rmdir()

    def left(self, done: Renamed) -> list[Occurrence]:
        """Search the files once more: return where the old name stands now."""
        root = self._opened.host.root
        folder = in_path(self.module.folder, self.renaming)
        found = []
        for path in written_files(self._opened, root / folder):
            content = path.read_bytes()
            relative = path.relative_to(root).as_posix()
            if path.name != MADE_FILE and _is_text(content) and self.renaming.quick.search(content):
                text = content.decode("utf-8", "surrogateescape")
                found += occurrences(relative, text, self.renaming, relative.startswith(f"{folder}/"))
        return found


def written_files(opened: OpenHost, own: Path) -> Iterator[Path]:
    """Yield the files of a host that people write, in order; ``own`` is a module's folder, of which all are.

    Left out are links, environments, what version control keeps, caches, databases and what the host installs.
    """
    root = opened.host.root
    skipped = opened.kit.data.facts.sources.skipped | _NOT_READ
    for where, folders, names in os.walk(root):
        here = Path(where)
        folders[:] = sorted(one for one in folders if _is_walked(here / one, one, skipped))
        for name in sorted(names):
            path = here / name
            if path.is_symlink() or not path.is_file() or path.suffix in (".pyc", ".sqlite3", ".sqlite", ".db"):
                continue
            if own in path.parents or path.stat().st_size <= LARGEST_BYTES:
                yield path


def _is_walked(path: Path, name: str, skipped: frozenset[str]) -> bool:
    return name not in skipped and not path.is_symlink() and not (path / "pyvenv.cfg").exists()


def _pattern(patterns: Sequence[str], label: str, camel: str) -> re.Pattern[str] | None:
    filled = [one.replace("{label}", re.escape(label)).replace("{camel}", re.escape(camel)) for one in patterns]
    return re.compile("|".join(f"(?:{one})" for one in filled)) if filled else None


def _is_text(content: bytes) -> bool:
    return b"\0" not in content[:8192] and len(content) <= LARGEST_BYTES
