"""Three states of a file brought together: as it was made, as it stands there, and as it would be made now."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

from ..core.changes import ChangeSet
from ..core.errors import Problem, Refused
from ..core.hostfacts import StepRun
from ..core.renaming.identifiers import Identifiers
from ..edits.carrying import NotCarried, three_way
from ..edits.source import SourceText
from .modulefiles import FilesOnDisk

NOTHING_RENAMED = Identifiers({}, whole=True)


@dataclass
class Refreshed:
    """What a refresh did, or would do.

    conflicts -- places of files where marks stand; left -- what was left as it is, and why
    renamed   -- identifiers of records that have another name, by which the host's database knows them
    steps     -- what was done in the database for those
    """

    module: str
    changes: ChangeSet
    conflicts: list[str] = field(default_factory=list)
    left: list[str] = field(default_factory=list)
    renamed: Identifiers = NOTHING_RENAMED
    steps: list[StepRun] = field(default_factory=list)


def refuse_marks(files: FilesOnDisk, paths: Iterable[str]) -> None:
    """Raise Refused for files with conflict marks, which must be settled first: another merge would bury them."""
    problems = []
    for path in paths:
        content = files.content(path)
        if content is not None and b"\n<<<<<<< " in b"\n" + content:
            line = (b"\n" + content).count(b"\n", 0, (b"\n" + content).index(b"\n<<<<<<< ") + 1)
            problems.append(Problem(f"{files.place(path)}:{line}", "conflict marks stand there", "Choose a side."))
    if problems:
        raise Refused(
            "conflicts-left",
            "Conflicts of an earlier refresh are not settled; nothing was changed.",
            "Fix them first.",
            tuple(problems),
        )


def merge_file(
    files: FilesOnDisk,
    path: str,
    was: bytes | None,
    now: bytes | None,
    result: Refreshed,
    source: str,
    elsewhere: Callable[[bytes, bytes, ChangeSet], bool] = lambda was, now, changes: False,
    in_new_names: Callable[[bytes], bytes] = lambda content: content,
) -> None:
    """Bring one file up to what is made now, and keep what people wrote since.

    was, now     -- what was made last and what is made now; None for nothing
    source       -- what it is made from, as conflict marks say it
    elsewhere    -- carries a change into another place where the file is gone; False where there is none
    in_new_names -- turns names that changed into the new ones, in what was made and in what people wrote
    """
    if was == now:
        return
    here = files.content(path)
    if now is None:
        if here is not None and here == was:
            files.put(result.changes, path, None)
        elif here is not None:
            result.left.append(f"{path} is no longer made, but was changed by hand, and stays")
        return
    if here is None:
        if was is None:
            files.put(result.changes, path, now)
        elif not elsewhere(was, now, result.changes):
            result.left.append(f"{path} was taken away by hand, and stays away")
        return
    if here in (was, now):
        files.put(result.changes, path, now)
        return
    _merge(files, path, in_new_names(here), in_new_names(was or b""), now, result, source)


def merge_moved_file(
    files: FilesOnDisk,
    path: str,
    target: str,
    was: bytes,
    now: bytes,
    result: Refreshed,
    source: str,
    in_new_names: Callable[[bytes], bytes],
) -> None:
    """Bring a file up to what is made now under another path: what people wrote in it goes along.

    Raises Refused where another file lies there.
    """
    here = files.content(path)
    if here is None:
        result.left.append(f"{path} was taken away by hand, and stays away")
        return
    if files.content(target) is not None:
        sentence = f"{files.place(target)} exists already; nothing was changed."
        raise Refused("in-the-way", sentence, "Move it away first.")
    files.put(result.changes, path, None)
    if here == was:
        files.put(result.changes, target, now)
    else:
        _merge(files, target, in_new_names(here), in_new_names(was), now, result, source)


def _merge(files: FilesOnDisk, path: str, here: bytes, was: bytes, now: bytes, result: Refreshed, source: str) -> None:
    merged, conflicts = _merged(files, path, here, was, now, source)
    files.put(result.changes, path, merged)
    result.conflicts.extend(f"{files.place(path)}:{line}" for line in conflicts)


def _merged(files: FilesOnDisk, path: str, here: bytes, was: bytes, now: bytes, source: str) -> tuple[bytes, list[int]]:
    """Merge by syntax where that works without a conflict, else line by line with marks."""
    try:
        return files.opened.host.carry(path, here, was, now), []
    except NotCarried:
        pass
    try:
        text_here = SourceText.of(path, here)
        newline = text_here.newline
        text, conflicts = three_way(
            text_here.text.replace("\r\n", "\n"),
            was.decode("utf-8"),
            now.decode("utf-8"),
            ("yours", f"from {source}"),
        )
        return text_here.with_text(text.replace("\n", newline) if newline != "\n" else text).content(), conflicts
    except (UnicodeError, SyntaxError):
        return here, [1]
