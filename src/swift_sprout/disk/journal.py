"""The change sets of a host: applied all or nothing, taken back after a killed run, undone.

They lie in the user's state folder, never in the host's. A change set lives in ``changes/NNNNNN.open`` while it is
applied: ``plan.json`` and what stood in the host before, ``old.N``. Renaming that folder to ``NNNNNN`` is the one
moment at which it counts as done; until then a later run takes it back.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from ..core.changes import ChangeSet
from ..core.errors import Problem, Refused
from . import operations
from .applying import PLAN, Applying, Origin
from .earlier import read_earlier, take_away, taking_back, write_set
from .inside import InsideHost
from .lock import DEFAULT_WAIT_SECONDS, wait_for_writer, writer_lock
from .plan import Plan, read_plan
from .private import is_private, private_folder
from .state import host_folders, marks_of_others, take_mark
from .taking_back import TakingBack, digest_at, remove_folders

KEPT_CHANGES = 50
WORD = "word"
CHANGES = "changes"
OPEN, PART, AWAY, UNSURE, BROKEN = ".open", ".part", ".away", ".unsure", ".broken"


class Done(NamedTuple):
    """A change set that was applied, as its journal tells it.

    turned  -- modules that were switched in the host's own state with it, and whether on or off
    lasting -- what it did that cannot be taken back, such as steps in a database; empty for nothing
    run     -- what change sets of one run of a command share, which are taken back together; empty for none
    when    -- the moment at which it was applied, in seconds since 1970
    """

    number: str
    title: str
    paths: list[str]
    notes: list[str]
    turned: list[tuple[str, bool]]
    lasting: str = ""
    run: str = ""
    when: float = 0.0


def _silent(sentence: str) -> None:
    return None


class Journal:
    """The change sets of one host.

    root    -- the host's folder
    tell    -- is told, in sentences, what the person should know: whom this run waits for, what could not be kept
    place   -- another folder for the state than the user's own, for hosts that are gone in a moment
    changed -- is called whenever the host's files have changed, or may have: what was read of them is old
    """

    def __init__(
        self,
        root: Path,
        tell: Callable[[str], None] = _silent,
        place: Path | None = None,
        changed: Callable[[], None] = lambda: None,
    ) -> None:
        self.root = root
        self.tell = tell
        self.changed = changed
        base, below = host_folders(root)
        self._base = base if place is None else place
        self._below = below if place is None else ()
        self.state = self._base.joinpath(*self._below)
        self.folder = self.state / CHANGES
        self._held = False

    @contextmanager
    def writing(self, purpose: str, wait_seconds: float = DEFAULT_WAIT_SECONDS) -> Iterator[int]:
        """Hold the host's writer lock; on entry, take back what a killed run left half-written.

        Yields the descriptor that holds the lock, for programs that shall hold it as long as they run; -1 when this
        run holds it already.
        """
        if self._held:
            yield -1
            return
        try:
            private_folder(self._base, *self._below, CHANGES)
        except OSError as error:
            raise _cannot_write(self.state, error) from None
        with writer_lock(self.root, self.state, purpose, wait_seconds, self.tell) as descriptor:
            self._held = True
            try:
                self._tidy()
                self.changed()  # others may have written until now
                yield descriptor
            finally:
                self._held = False

    def half_written(self) -> str:
        """Return the title of a change set that a killed run left unfinished, or another applies now, or ""."""
        for name in self._names():
            if name.endswith(OPEN) and (self.folder / name / PLAN).exists():  # before it is there, nothing was touched
                plan = self._plan(self.folder / name)
                return plan.title if plan is not None else "a change set whose plan cannot be read"
        return ""

    def recover(self, wait_seconds: float = DEFAULT_WAIT_SECONDS) -> str:
        """Take back what a killed run left; returns its title, empty when there was nothing to take back."""
        title = self.half_written()
        if title:
            with self.writing("taking back an interrupted change", wait_seconds):
                pass
        return title

    def unfinished(self, wait_seconds: float = DEFAULT_WAIT_SECONDS) -> str:
        """Wait until nobody writes to the host, and return what ``half_written`` does then; nothing is changed."""
        if self.half_written():
            wait_for_writer(self.root, wait_seconds)
        return self.half_written()

    def others(self) -> list[str]:
        """Return what other users' unfinished runs say of themselves, one sentence each."""
        return marks_of_others(self.root)

    def private_file(self, folder: str, name: str, ending: str) -> Path:
        """Make a new, empty file in a private folder of the host's state, such as for rows that are kept."""
        place = private_folder(self._base, *self._below, folder)
        number = 1
        while True:
            path = place / f"{name}-{number}{ending}"
            try:
                operations.write_new(str(path), b"", operations.ALONE)
                return path
            except FileExistsError:
                number += 1

    # -- a word for the next run -------------------------------------------------------------------------------------

    def leave_word(self, sentence: str, kept: Path) -> None:
        """Have later runs say a sentence, should this one be killed.

        kept -- a file with what was kept: it is said as long as that is there
        """
        self.take_word()
        text = json.dumps({"sentence": sentence, "kept": str(kept)})
        operations.write_new(str(self.state / WORD), text.encode("utf-8"), operations.ALONE)
        operations.flush_folder(str(self.state))

    def take_word(self) -> None:
        """Let later runs say nothing of it: this one came to its end."""
        if os.path.lexists(self.state / WORD):
            operations.unlink(str(self.state / WORD))

    def word(self) -> str:
        """Return what a run that was killed had to say; empty for nothing."""
        try:
            left = json.loads(operations.read_plain(str(self.state / WORD))) if is_private(self.state) else {}
            return str(left["sentence"]) if os.path.exists(left.get("kept", "")) else ""
        except (OSError, ValueError, TypeError, KeyError, AttributeError):
            return ""

    # -- applying ----------------------------------------------------------------------------------------------------

    def apply(self, changes: ChangeSet) -> str:
        """Apply a change set all or nothing and return its number; the lock must be held.

        Raises Refused, with everything as before, when a file is not as the change set expects it, a path leads out
        of the host, or the disk does not take it.
        """
        return self._apply(changes, "", {})

    def _apply(self, changes: ChangeSet, undoes: str, origins: dict[str, Origin]) -> str:
        assert self._held, "apply needs the writer lock"
        inside = InsideHost(str(self.root))
        for change in changes.changes:
            inside.refuse_outside(change.path)
        number = f"{self._next_number():06d}"
        work = self.folder / f"{number}{OPEN}"
        try:
            Applying(self.root, work, changes, undoes, origins, self.tell).run()
            operations.rename(str(work), str(self.folder / number))
        except BaseException as error:
            self._take_back(work)
            if isinstance(error, OSError):
                raise _cannot_write(self.root, error) from None
            raise
        finally:
            self.changed()
        operations.flush_folder(str(self.folder))
        take_mark(self.root)  # once more: where it could not be taken a moment ago, it would tell of what is done
        self._prune()
        return number

    def note(self, number: str, text: str) -> None:
        """Keep one more sentence with a change set, for whoever undoes it."""
        self._append(number, "notes", text.replace("\n", " "))

    def turned(self, number: str, module: str, on: bool) -> None:
        """Keep with a change set that a module was switched on or off in the host's own state."""
        self._append(number, "turned", f"{'on' if on else 'off'} {module}")

    def lasting(self, number: str, text: str) -> None:
        """Keep with a change set what it did that nothing takes back."""
        self._append(number, "lasting", text.replace("\n", " "))

    def of_run(self, number: str, run: str) -> None:
        """Keep with a change set the run of a command that it belongs to."""
        self._append(number, "run", run)

    def pass_over(self, number: str) -> None:
        """Forget a change set that changed no file; the lock must be held."""
        assert not self._needed_plan(number).files, "only what changed no file is passed over"
        self._drop(number)

    def _append(self, number: str, name: str, line: str) -> None:
        operations.append(str(self.folder / number / name), line.encode("utf-8", "replace") + b"\n")
        operations.flush_folder(str(self.folder / number))

    # -- going back --------------------------------------------------------------------------------------------------

    def last(self) -> Done | None:
        """Return the newest change set that was applied and not undone, or None."""
        return next(self.done(), None)

    def done(self) -> Iterator[Done]:
        """Yield the change sets that were applied and not undone and are still kept, the newest first."""
        for number in reversed(self._numbers()):
            plan = self._plan(self.folder / number)
            if plan is None:
                continue
            turned = [line.partition(" ") for line in self._lines(number, "turned")]
            yield Done(
                number,
                plan.title,
                [entry.path for entry in plan.files],
                self._lines(number, "notes"),
                [(module, word == "on") for word, _, module in turned],
                "; ".join(self._lines(number, "lasting")),
                "".join(self._lines(number, "run")),
                (self.folder / number / PLAN).stat().st_mtime,
            )

    def _lines(self, number: str, name: str) -> list[str]:
        path = self.folder / number / name
        return path.read_text("utf-8").splitlines() if path.exists() else []

    def inverse(self, number: str) -> ChangeSet:
        """Return the change set that takes one back; raises Refused when files were changed since.

        What was kept is compared as well: what comes back is what stood there, or nothing is changed.
        """
        folder, plan = self.folder / number, self._needed_plan(number)
        inverse = ChangeSet(f"undo {plan.title}")
        problems = []
        for index, entry in enumerate(plan.files):
            path = self.root / entry.path
            now = path.read_bytes() if path.is_file() else None
            if digest_at(str(path)) != entry.after:
                what = "is gone" if now is None else "was changed"
                problems.append(Problem(entry.path, f"{what} after the change set was applied"))
            elif entry.before is None:
                inverse.add(entry.path, now, None)
            elif digest_at(str(folder / f"old.{index}")) != entry.before:
                problems.append(Problem(entry.path, "what was kept of it is damaged"))
            else:
                inverse.add(entry.path, now, (folder / f"old.{index}").read_bytes())
        if problems:
            raise Refused(
                "undo-changed-since",
                f"Undoing {plan.title!r} would lose later work.",
                "Put the listed files aside, or fix them by hand.",
                tuple(problems),
            )
        return inverse

    def undo(self, number: str) -> None:
        """Take one change set back; the lock must be held. Raises Refused as ``inverse`` and ``apply`` do."""
        inverse, plan = self.inverse(number), self._needed_plan(number)
        if inverse:
            origins = {
                entry.path: Origin(entry.attributes, str(self.folder / number / f"same.{index}"))
                for index, entry in enumerate(plan.files)
                if entry.attributes is not None
            }
            self._apply(inverse, number, origins)
        remove_folders(str(self.root), plan.made_folders, InsideHost(str(self.root)))
        self.changed()
        self._finish_undo(number)

    def take_over(self) -> list[str]:
        """Take over the change sets that an earlier version kept in the host's folder; the lock must be held.

        Returns their titles, what a killed run had left half-written first, as taken back. Raises Refused, with
        nothing changed, where one of them is not valid.
        """
        sets = read_earlier(self.root)
        titles = []
        for one in (each for each in sets if each.is_open):
            changes = taking_back(self.root, one)
            if changes:
                self.apply(changes)
            titles.append(changes.title)
        for one in (each for each in sets if not each.is_open):
            number = f"{self._next_number():06d}"
            write_set(one, self.folder / f"{number}{PART}")
            operations.rename(str(self.folder / f"{number}{PART}"), str(self.folder / number))
            titles.append(one.title)
        operations.flush_folder(str(self.folder))
        take_away(self.root, self.tell)
        return titles

    def _finish_undo(self, number: str) -> None:
        """Drop the undone change set, then the change set that undid it: in this order, so that a kill is mended."""
        self._drop(number)
        for newest in self._numbers()[-1:]:
            plan = self._plan(self.folder / newest)
            if plan is not None and plan.undoes == number:
                self._drop(newest)

    def _take_back(self, work: Path) -> None:
        """Bring the tree back to what it was before an unfinished change set, then forget the change set."""
        ending = AWAY
        plan = self._plan(work)
        if plan is not None:
            back = TakingBack(self.root, work, plan)
            back.run()
            if back.unsure:
                ending = UNSURE
                self.tell(
                    f"{', '.join(back.unsure)} changed after the interrupted run of {plan.title!r} and stays as it is; "
                    f"what stood there before is kept in {work.with_suffix(ending)}."
                )
        elif (work / PLAN).exists():
            ending = BROKEN
            self.tell(f"The plan of an interrupted run cannot be read; it is kept in {work.with_suffix(ending)}.")
        take_mark(self.root)
        if work.exists():
            away = work.with_suffix(ending)
            operations.rename(str(work), str(away))
            operations.flush_folder(str(self.folder))
            if ending == AWAY:
                _clear(away)

    def _tidy(self) -> None:
        """Finish what killed runs left: change sets that are open, or were being dropped, and an undo in its middle."""
        take_mark(self.root)  # nobody of this user writes now
        for name in sorted(self._names(), reverse=True):
            if name.endswith(OPEN):
                self._take_back(self.folder / name)
            elif name.endswith((AWAY, PART)):
                _clear(self.folder / name)
        for newest in self._numbers()[-1:]:
            plan = self._plan(self.folder / newest)
            if plan is not None and plan.undoes:
                undone = self._plan(self.folder / plan.undoes)
                remove_folders(
                    str(self.root), undone.made_folders if undone is not None else [], InsideHost(str(self.root))
                )
                self._finish_undo(plan.undoes)

    def _drop(self, number: str) -> None:
        folder = self.folder / number
        if folder.exists():
            operations.rename(str(folder), str(folder.with_suffix(AWAY)))
            operations.flush_folder(str(self.folder))
            _clear(folder.with_suffix(AWAY))

    def _prune(self) -> None:
        for number in self._numbers()[:-KEPT_CHANGES]:
            self._drop(number)

    # -- what lies in the state folder -------------------------------------------------------------------------------

    def _names(self) -> list[str]:
        """Return what lies in the folder for change sets; nothing where that is not this user's alone."""
        if not all(is_private(one) for one in (self.folder, self.state)):
            return []
        return os.listdir(self.folder)

    def _numbers(self) -> list[str]:
        return sorted(name for name in self._names() if name.isdigit())

    def _next_number(self) -> int:
        numbers = [int(name.partition(".")[0]) for name in self._names() if name.partition(".")[0].isdigit()]
        return max(numbers, default=0) + 1

    @staticmethod
    def _plan(folder: Path) -> Plan | None:
        """Return the plan of a change set; None for one that has none, or one that is not valid."""
        try:
            return read_plan(operations.read_plain(str(folder / PLAN)))
        except (OSError, ValueError):
            return None

    def _needed_plan(self, number: str) -> Plan:
        plan = self._plan(self.folder / number)
        if plan is None:
            raise Refused("state-broken", f"The plan in {self.folder / number} cannot be read.", "Nothing was changed.")
        return plan


def _clear(folder: Path) -> None:
    """Remove a folder with all it holds, as far as that goes."""
    import shutil  # costs much to import, and is seldom needed

    shutil.rmtree(folder, ignore_errors=True)


def _cannot_write(root: Path, error: OSError) -> Refused:
    reason = (error.strerror or str(error)).lower()
    place = error.filename or root
    remedy = {
        "no space left on device": "Make room on that disk and run the command again.",
        "read-only file system": "The disk is mounted read-only; mount it for writing.",
    }.get(reason, "Give yourself the right to write there, or work as the user who has it.")
    return Refused("cannot-write", f"Cannot write {place}: {reason}; nothing was changed.", remedy)
