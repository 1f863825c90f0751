"""``remove``: a module taken out of registration, placements and disk, its data kept or dropped on an explicit word.

What can refuse is tried before anything is lost: whether the tables can be taken away, on a copy; whether files and
entries can, by doing it, asking the host to start, and taking it back. Only then are rows saved, read back and counted,
the tables dropped, and the files taken away for good.
"""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import NamedTuple

from ..core.changes import ChangeSet
from ..core.errors import HostFailed, Problem, Refused, SproutError
from ..core.hostfacts import StepRun
from ..core.plurals import number_of
from ..hosts.contract.exchange import Edit
from .confirming import confirm_out
from .hosting import OpenHost
from .modulefiles import ModuleOnDisk

LEFT_FOLDERS = frozenset({"__pycache__"})
ROWS = "rows"


class Removed(NamedTuple):
    """What ``remove`` did, or would do: the change set, rows by table, the steps, and what is said beside.

    folder -- where the module lies; edit -- what switching it off takes
    """

    module: str
    folder: str
    edit: Edit
    changes: ChangeSet
    tables: dict[str, int]
    steps: list[StepRun]
    notes: list[str]


def remove(opened: OpenHost, name: str, data: str, preview: bool, leftovers: str = "keep") -> Removed:
    """Take a module out.

    data      -- ``keep``, ``drop`` or empty: with an empty word, a module whose tables hold rows is not removed
    leftovers -- ``drop`` takes away as well what the host keeps of the module beside its tables

    Raises Refused naming tables and rows where the word is missing, where other modules need this one, and where the
    host does not start without it.
    """
    if leftovers == "drop" and not opened.host.knows_leftovers:
        raise Refused(
            "no-leftovers",
            f"{opened.kit.data.title} hosts are not asked what they keep beside tables; nothing was changed.",
            "Leave --leftovers out.",
        )
    if preview:
        return _planned(opened, name, data, True)
    with opened.writing(f"remove {name}"):
        planned = _planned(opened, name, data, False)
        drops = data == "drop" and bool(planned.tables)
        if drops:
            opened.host.try_drop(planned.module)
        removing = _Removing(opened, planned, leftovers == "drop")
        notes = [*planned.notes, *confirm_out(opened, planned.module, planned.edit, removing.back, removing.out)]
        if drops:
            notes += removing.drop()
        removing.tidy()
    return planned._replace(steps=removing.steps, notes=notes)


class _Removing:
    """Takes a module out, and puts it back as long as nothing was lost."""

    def __init__(self, opened: OpenHost, planned: Removed, whole: bool) -> None:
        self._opened = opened
        self._whole = whole
        self._planned = planned
        self._number = ""
        self.steps: list[StepRun] = []
        self.out()

    def out(self) -> None:
        """Switch the module off in the host's own state, and take entries and files away."""
        module = self._planned.module
        self.steps = self._opened.host.set_enabled(module, False)
        try:
            self._number = self._opened.journal.apply(self._planned.changes)
        except SproutError:
            self._on_again()
            raise
        if self.steps:
            self._opened.journal.turned(self._number, module, False)

    def back(self) -> None:
        """Put everything back as it was."""
        self._opened.journal.undo(self._number)
        self._on_again()

    def _on_again(self) -> None:
        if self.steps:
            self._opened.host.set_enabled(self._planned.module, True)

    def drop(self) -> list[str]:
        """Save the rows, drop the tables, and take entries and files away again; returns what is to be told.

        The tables go while the module is there, for its own code says what they are. Where something fails, the rows
        are put back, or their place is named.
        """
        opened, module = self._opened, self._planned.module
        wanted = sum(self._planned.tables.values())
        self.back()
        rows = opened.journal.private_file(ROWS, module.rpartition(".")[2], ".json")
        held = opened.host.save_rows(module, rows)
        if held != wanted:
            raise HostFailed(
                "rows-not-saved",
                f"{rows} holds {held} rows, but the tables of {module} {wanted}; the tables stay.",
                "Look whether somebody writes to them now, and run this again.",
            )
        was_on = bool(self.steps)
        opened.journal.leave_word(
            f"A run that took {module} out was ended while its tables went; its {held} rows are kept in {rows}. "
            "Take that file away when you have seen to it.",
            rows,
        )
        if was_on:
            opened.host.set_enabled(module, False)
        try:
            dropped = opened.host.drop_data(module)
            if self._whole:
                dropped += opened.host.drop_leftovers(module, rows.with_name(f"beside-{rows.name}"))
            left = opened.host.leftovers(module)
            steps = self.steps
            self._number = opened.journal.apply(self._planned.changes)
        except SproutError as error:
            failed = self._with_rows_back(error, rows, was_on)
            opened.journal.take_word()
            raise failed from None
        if was_on:
            opened.journal.turned(self._number, module, False)
        saved = f"write {number_of(held, 'row')} to {rows.name}"
        self.steps = [*steps, StepRun(saved, True), *dropped]
        for step in dropped:
            opened.journal.note(self._number, f"{step.title} (undo: swift-sprout settle, then load the rows of {rows})")
        opened.journal.take_word()  # last: until the change set tells of the rows, only this does
        return [f"{held} {'row is' if held == 1 else 'rows are'} kept in {rows}", *left]

    def _with_rows_back(self, error: SproutError, rows: Path, was_on: bool) -> HostFailed:
        """Put the rows back after a failure, and return the error that tells what became of them."""
        module = self._planned.module
        try:
            self._opened.host.load_rows(module, rows)
            self._opened.host.set_enabled(module, was_on)
            said = "Tables and rows were put back"
        except SproutError as second:
            said = f"The rows could not be put back ({second.sentence.rstrip('.')})"
        return HostFailed(error.code, f"{error.sentence} {said}; they are kept in {rows}.", error.remedy)

    def tidy(self) -> None:
        """Take away byte code, and folders that are empty now."""
        root = self._opened.host.root
        tidy_folder(root / self._planned.folder)
        for change in self._planned.changes.changes:
            _tidy_above(root, change.path)


def _planned(opened: OpenHost, name: str, data: str, preview: bool) -> Removed:
    module = ModuleOnDisk(opened, name)
    notes: list[str] = []
    try:
        tables = opened.host.kept_data(module.name)
    except HostFailed as error:
        if not data:
            raise Refused(
                "data-unknown",
                f"Whether {module.name} keeps data cannot be told: {error.sentence} Nothing was changed.",
                "Fix that, or say --data keep.",
            ) from None
        if data == "drop":
            raise
        tables = {}
        notes.append(f"its tables were not looked at: {error.sentence}")
    rows = sum(tables.values())
    if rows and not data and not preview:
        raise Refused(
            "data-there",
            f"{module.name} keeps {number_of(rows, 'row')} in the database; nothing was changed.",
            "Say --data keep, so that the tables stay, or --data drop, so that they go.",
            tuple(Problem(table, number_of(count, "row")) for table, count in tables.items()),
        )
    edit = opened.host.switch_off(module.name, for_good=True)
    changes = ChangeSet(f"remove {module.name}")
    for change in edit.changes.changes:
        if not change.path.startswith(module.folder + "/"):
            changes.add(*change)
    for path in sorted(module.path.rglob("*")):
        if LEFT_FOLDERS & set(path.relative_to(module.path).parts) or path.is_dir():
            continue
        if path.is_symlink() or not path.is_file():
            raise Refused(
                "not-a-file",
                f"{path.relative_to(opened.host.root)} is a link or no plain file; nothing was changed.",
                "Take it away by hand first.",
            )
        changes.add(path.relative_to(opened.host.root).as_posix(), path.read_bytes(), None)
    if tables and data != "drop":
        notes.append("its tables stay in the database")
    return Removed(module.name, module.folder, edit, changes, tables, [], notes)


def tidy_folder(folder: Path) -> None:
    """Take away what the change set leaves of the folder: byte code, and folders that are empty."""
    if not folder.is_dir():
        return
    for cache in sorted(folder.rglob("__pycache__")):
        shutil.rmtree(cache, ignore_errors=True)
    for inner in sorted((path for path in folder.rglob("*") if path.is_dir()), key=lambda one: -len(one.parts)):
        try:
            inner.rmdir()
        except OSError:
            pass
    try:
        folder.rmdir()
    except OSError:
        pass


def _tidy_above(root: Path, path: str) -> None:
    """Take away the folder of a file that is gone, where it is empty now."""
    if not (root / path).exists() and (root / path).parent != root:
        try:
            (root / path).parent.rmdir()
        except OSError:
            pass
