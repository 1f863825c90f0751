"""The state that versions before this one kept in the host's own folder: taken over on request, after full validation.

Whoever brings a host brings that folder too. So nothing of it is used as it lies there: every path, digest and kept
file is compared with what it should be, and one that does not hold is refused with its place.
"""

from __future__ import annotations

import json
import os
import secrets
import stat
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

from ..core.changes import ChangeSet
from ..core.errors import Problem, Refused
from . import operations
from .applying import PLAN
from .attributes import Attributes
from .digests import digest_of
from .inside import InsideHost
from .plan import LONGEST_TITLE, PlannedFile, checked_digest, checked_path, plan_pieces

FOLDER = ".swift-sprout"
LARGEST_PLAN_BYTES = 50_000_000


class EarlierSet(NamedTuple):
    """One change set of the earlier form, validated: its files with what was kept of each, and its words."""

    name: str
    title: str
    files: list[PlannedFile]
    kept: list[bytes | None]
    made_folders: list[str]
    notes: list[str]
    turned: list[str]

    @property
    def is_open(self) -> bool:
        """True when the run that applied it was killed."""
        return self.name.endswith(".open")


def has_earlier_state(root: Path) -> bool:
    """True when a folder of the earlier form lies in the host."""
    return os.path.isdir(root / FOLDER / "changes") and not os.path.islink(root / FOLDER)


def read_earlier(root: Path) -> list[EarlierSet]:
    """Return the change sets of the earlier form, in order; raises Refused that lists all that does not hold."""
    folder = root / FOLDER / "changes"
    problems: list[Problem] = []
    found: list[EarlierSet] = []
    for path in (root / FOLDER, folder):
        if not stat.S_ISDIR(os.lstat(path).st_mode) or os.lstat(path).st_uid != os.geteuid():
            problems.append(Problem(str(path), "it is a link, or belongs to another user"))
    for name in sorted(os.listdir(folder)) if not problems else ():
        number, _, ending = name.partition(".")
        if not number.isdigit() or ending not in ("", "open"):
            continue
        try:
            found.append(_read_set(root, folder / name))
        except (OSError, ValueError, TypeError, KeyError) as error:
            problems.append(Problem(f"{FOLDER}/changes/{name}", f"it is not valid: {error}"))
    if problems:
        raise Refused(
            "earlier-state-wrong",
            f"What lies in {FOLDER}/ was not written by an earlier version, or is damaged; nothing was changed.",
            f"Take the listed folders away, or all of {FOLDER}/ where its change sets are not to be undone.",
            tuple(problems),
        )
    return found


def _read_set(root: Path, folder: Path) -> EarlierSet:
    if not stat.S_ISDIR(os.lstat(folder).st_mode):
        raise ValueError("it is no folder")
    plan = _read_plan(folder / PLAN)
    title, inside = plan["title"], InsideHost(str(root))
    if not isinstance(title, str) or not title.isprintable() or len(title) > LONGEST_TITLE:
        raise ValueError("its title is none")
    files, kept = [], []
    for index, entry in enumerate(plan["files"]):
        path = checked_path(entry["path"])
        if not inside.holds(path) or os.path.islink(root / path):
            raise ValueError(f"{path!r} leads out of the host")
        before, after = checked_digest(entry["before"]), checked_digest(entry["after"])
        content, had = _read_kept(folder / f"old.{index}", before)
        if before is None and after is None:
            raise ValueError(f"{path!r} is neither made, changed nor taken away")
        if content is None and before is not None and not folder.name.endswith(".open"):
            raise ValueError(f"what was kept of {path!r} is not there")
        files.append(PlannedFile(path, before, after, had))
        kept.append(content)
    folders = [checked_path(one) for one in plan["made_folders"]]
    return EarlierSet(
        folder.name, title, files, kept, folders, _lines(folder / "notes"), _turned(_lines(folder / "turned"))
    )


def _read_plan(path: Path) -> dict[str, Any]:
    if os.lstat(path).st_size > LARGEST_PLAN_BYTES:
        raise ValueError("its plan is too large")
    try:
        plan = json.loads(operations.read_plain(str(path)))
    except RecursionError:
        raise ValueError("its plan is nested too deeply") from None
    if not isinstance(plan, dict) or not isinstance(plan.get("files"), list):
        raise ValueError("its plan is none")
    if not isinstance(plan.get("made_folders"), list):
        raise ValueError("its plan names no folders")
    return plan


def _read_kept(path: Path, before: str | None) -> tuple[bytes | None, Attributes | None]:
    """Return what was kept of a file, and its attributes; raises ValueError where it is not what stood there."""
    if before is None or not os.path.lexists(path):
        return None, None
    content = operations.read_plain(str(path))
    if digest_of(content) != before:
        raise ValueError(f"{path.name} is not what stood there")
    return content, Attributes(stat.S_IMODE(os.lstat(path).st_mode) & 0o777, os.geteuid(), os.getegid(), 1, {})


def _lines(path: Path) -> list[str]:
    if not os.path.lexists(path):
        return []
    lines = operations.read_plain(str(path)).decode("utf-8").splitlines()
    if not all(line.isprintable() for line in lines):
        raise ValueError(f"{path.name} holds signs that no line has")
    return lines


def _turned(lines: list[str]) -> list[str]:
    if any(line.partition(" ")[0] not in ("on", "off") for line in lines):
        raise ValueError("it does not say what was switched")
    return lines


def write_set(earlier: EarlierSet, folder: Path) -> None:
    """Write a validated change set as this version keeps them, into a folder that is made."""
    operations.make_folder(str(folder), 0o700)
    for index, content in enumerate(earlier.kept):
        if content is not None:
            operations.write_new(str(folder / f"old.{index}"), content, operations.ALONE)
    for name, lines in (("notes", earlier.notes), ("turned", earlier.turned)):
        if lines:
            operations.append(str(folder / name), "".join(f"{line}\n" for line in lines).encode("utf-8"))
    pieces = plan_pieces(earlier.title, secrets.token_hex(8), "", earlier.files, _Made(earlier.made_folders))
    operations.write_pieces(str(folder / PLAN), pieces)
    operations.flush_folder(str(folder))


class _Made:
    def __init__(self, made: list[str]) -> None:
        self.made = made
        self.tops: list[str] = []


def taking_back(root: Path, earlier: EarlierSet) -> ChangeSet:
    """Return the change set that takes back what a killed run of an earlier version did, as far as it came."""
    changes = ChangeSet(f"take back {earlier.title}")
    for entry, content in zip(earlier.files, earlier.kept, strict=True):
        path = root / entry.path
        now = path.read_bytes() if path.is_file() else None
        did_it = (digest_of(now) if now is not None else None) == entry.after
        if did_it and (entry.before is None or content is not None):
            changes.add(entry.path, now, content)
    return changes


def take_away(root: Path, tell: Callable[[str], None]) -> None:
    """Take the folder of the earlier form away when all of it was taken over; what is not ours in it stays."""
    import shutil

    folder = root / FOLDER
    for name in sorted(os.listdir(folder / "changes")):
        if name.partition(".")[0].isdigit():
            shutil.rmtree(folder / "changes" / name, ignore_errors=True)
    for name in ("lock", ".gitignore"):
        if stat.S_ISREG(os.lstat(folder / name).st_mode) if os.path.lexists(folder / name) else False:
            operations.unlink(str(folder / name))
    for place in (folder / "changes", folder / "rows", folder):
        try:
            operations.remove_folder(str(place))
        except OSError:
            pass
    if folder.exists():
        tell(f"{FOLDER}/ holds files that are not the journal's, such as kept rows; they were left there.")
