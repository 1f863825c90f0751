"""``remove``: a module taken out of registration, placements and disk, its data kept or dropped on an explicit word."""

from __future__ import annotations

from pathlib import Path

from ..core.changes import ChangeSet
from ..core.errors import HostFailed, Problem, Refused
from ..core.hostfacts import StepRun
from ..core.namedtuples import NamedTuple
from .hosting import OpenHost
from .modulefiles import ModuleOnDisk

LEFT_FOLDERS = frozenset({"__pycache__"})
ROWS = "rows"


class Removed(NamedTuple):
    """What ``remove`` did, or would do: the change set, rows by table, the steps, and what is said beside."""

    module: str
    changes: ChangeSet
    tables: dict[str, int]
    steps: list[StepRun]
    notes: list[str]


def remove(opened: OpenHost, name: str, data: str, preview: bool) -> Removed:
    """Take a module out.

    data -- ``keep``, ``drop`` or empty: with an empty word, a module whose tables hold rows is not removed

    Raises Refused naming tables and rows where the word is missing, and where other modules need this one.
    """
    if preview:
        return _planned(opened, name, data, True)
    with opened.writing(f"remove {name}"):
        planned = _planned(opened, name, data, False)
        folder = opened.host.root / opened.host.folder(planned.module)
        steps: list[StepRun] = []
        notes = list(planned.notes)
        turned = opened.host.turn(planned.module, False)
        if data == "drop" and planned.tables:
            rows = opened.journal.private_file(ROWS, planned.module.rpartition(".")[2], ".json")
            steps = opened.host.drop_data(planned.module, rows)
            notes.append(f"the rows are kept in {rows}")
        number = opened.journal.apply(planned.changes)
        if turned:
            opened.journal.turned(number, planned.module, False)
        for step in steps:
            opened.journal.note(number, f"{step.title} (undo: swift-sprout settle, then load the rows again)")
        _tidy(folder)
        for change in planned.changes.changes:
            _tidy_above(opened.host.root, change.path)
    return Removed(planned.module, planned.changes, planned.tables, turned + steps, notes)


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
                "Mend that, or say --data keep.",
            ) from None
        if data == "drop":
            raise
        tables = {}
        notes.append(f"its tables were not looked at: {error.sentence}")
    rows = sum(tables.values())
    if rows and not data and not preview:
        raise Refused(
            "data-there",
            f"{module.name} keeps {rows} row{'' if rows == 1 else 's'} in the database; nothing was changed.",
            "Say --data keep, so that the tables stay, or --data drop, so that they go.",
            tuple(Problem(table, f"{count} row{'' if count == 1 else 's'}") for table, count in tables.items()),
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
    return Removed(module.name, changes, tables, [], notes)


def _tidy(folder: Path) -> None:
    """Take away what the change set leaves of the folder: byte code, and folders that are empty."""
    import shutil

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
