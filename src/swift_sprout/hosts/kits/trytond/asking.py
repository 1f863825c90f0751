"""Asking the running host: one start of its interpreter for all modules, on copies of its databases."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.errors import HostFailed
from ....running.probe import ProbeFailed, step_in_words
from ....running.scratch import scratch_folder
from ...contract.exchange import StartUp
from ...python.probing import python_probe
from ...shared.leaving_out import start_without_culprits
from .reading.database import open_readonly
from .view import ON

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

PROBE = Path(__file__).parent / "probe" / "ask.py"
IN_DATABASE = ("tables", "data")  # what the database is asked for as it stands, and not once it was updated
BROUGHT = ("views", "menus", "rights", "carried", "checks", "pages")
ALL_STEPS = (*IN_DATABASE, *BROUGHT)


#  the steps of a start, and when the host fails where one does
FAILS_WHILE = {
    "host": "while it reads its configuration",
    "modules": "while it looks for its modules",
    "start": "while it imports its modules",
    "load": "while it loads its modules",
}


class Live:
    """What the running host answered.

    answers -- by step of the probe; stopped -- the modules that stop the host, each with the error, left out then
    failure -- why there are no answers at all
    updated -- the modules whose update was tried on a copy; update_failure -- the error with which that ended
    changed -- the ids of data records that the update changed, by module
    deep -- the modules of which all that they carry was used
    """

    def __init__(self) -> None:
        self.answers: dict[str, Any] = {}
        self.stopped: dict[str, dict[str, Any]] = {}
        self.failure = ""
        self.failure_remedy = ""
        self.updated: list[str] = []
        self.update_failure: dict[str, Any] | None = None
        self.changed: dict[str, list[str]] = {}
        self.deep: frozenset[str] = frozenset()

    @property
    def failures(self) -> dict[str, Any]:
        """The steps that failed, each with its error."""
        found: dict[str, Any] = self.answers.get("failures", {})
        return found

    @property
    def left_out(self) -> list[str]:
        """The modules that were not loaded: those that stop the host, and those that need them."""
        found: list[str] = (self.answers.get("modules") or {}).get("without", [])
        return found


def ask(
    view: HostView,
    modules: Sequence[ModuleFiles],
    limit_seconds: float,
    steps: Sequence[str] = ALL_STEPS,
    more: Mapping[str, Any] | None = None,
    meanwhile: Callable[[], object] = lambda: None,
) -> Live:
    """Return what the running host answers about modules.

    A module that stops it is told apart and left out, at most MOST_STARTS times.

    meanwhile -- done once while the host boots

    The host's databases are copied first, so that nothing that is asked can change them.
    """
    stopped: dict[str, dict[str, Any]] = {}

    def start(left_out: Mapping[str, dict[str, Any]]) -> Live:
        live = _once(view, modules, limit_seconds, steps, list(left_out), more or {}, meanwhile)
        stopped.update((live.answers.get("modules") or {}).get("stopped", {}))
        return live

    live: Live
    live, left_out = start_without_culprits(start, partial(_culprit, view))
    live.stopped = stopped | left_out
    for step, when in FAILS_WHILE.items():
        error = live.failures.get(step)
        if error is not None and not live.failure:
            live.failure = f"the host fails {when}: {said(error)}"
            live.failure_remedy = "Fix what is named there; the host itself stops in the same way."
    return live


def ask_updated(view: HostView, modules: Sequence[ModuleFiles], limit_seconds: float, more: Mapping[str, Any]) -> Live:
    """Bring a copy of the database to what modules' files say, as the host does, and ask it what modules bring.

    modules -- those whose update is tried; ``more`` says what is asked besides, as for ``ask``
    """
    return _once(view, modules, limit_seconds, BROUGHT, [], more, lambda: None)


def taken_over(live: Live, updated: Live, newer: Sequence[ModuleFiles]) -> bool:
    """Take over what a copy said that was updated; False where the update failed, or something stops the host.

    What the database says as it stands stays as it is.
    """
    if updated.failure or any(step in updated.failures for step in ("host", "modules", "start")):
        return False
    live.updated = [module.name for module in newer]
    live.update_failure = updated.failures.get("load")
    if live.update_failure is not None or live.failure or live.left_out or updated.left_out:
        return False
    live.changed = updated.answers["load"]["changed"]
    live.answers |= {step: answer for step, answer in updated.answers.items() if step in BROUGHT}
    live.failures.update(updated.failures)
    return True


def newer_than_database(view: HostView, modules: Sequence[ModuleFiles]) -> list[ModuleFiles]:
    """Return the modules that are on and of which a file was written after the database was last."""
    if view.database is None:
        return []
    last = view.database.path.stat().st_mtime
    return [one for one in modules if one.own and view.state(one) in ON and one.newest >= last]


def start_up(view: HostView, limit_seconds: float) -> StartUp:
    """Start the host once, with all modules that are active."""
    if view.interpreter is None or view.database is None:
        return StartUp(False)
    live = ask(view, (), limit_seconds, ())
    failures = [live.failure] if live.failure else []
    failures += [f"{name} stops it: {said(error)}" for name, error in live.stopped.items()]
    return StartUp(True, tuple(failures), frozenset(one.name for one in view.modules if view.state(one) in ON))


def _once(
    view: HostView,
    modules: Sequence[ModuleFiles],
    limit_seconds: float,
    steps: Sequence[str],
    without: list[str],
    more: Mapping[str, Any],
    meanwhile: Callable[[], object],
) -> Live:
    assert view.interpreter is not None
    live = Live()
    if view.database is None:
        live.failure = "the host has no database that can be asked"
        live.failure_remedy = (
            "Only SQLite databases are asked here: [database] uri = sqlite:// and path = … in trytond.conf."
        )
        return live
    with scratch_folder() as scratch:
        try:
            copy_database(view, scratch)
        except HostFailed as error:
            live.failure, live.failure_remedy = error.sentence.rstrip("."), error.remedy
            return live
        question = {
            "configuration": "trytond.conf",
            "databases": str(scratch),
            "database": view.database_name,
            "python_path": [str(folder) for folder in view.module_roots],
            "without": without,
            "without_start": False,
            "modules": [module.name for module in modules],
            "steps": list(steps),
            "deep": [],
            "page_seconds": min(limit_seconds / 3, 30),
            **more,
        }
        try:
            with python_probe(view.interpreter, PROBE, view.root, question, limit_seconds) as probe:
                meanwhile()
                live.answers = probe.answers()
        except ProbeFailed as failed:
            lines = [line for line in failed.output.splitlines() if line.strip()]
            last = f": {lines[-1][:300]}" if lines else ""
            asked = step_in_words(failed.step)
            live.failure = f"the host was ended while it was asked for its {asked}: {failed.reason}{last}"
            live.failure_remedy = "Fix what it says; a longer wait is given with --time-limit SECONDS."
    return live


def copy_database(view: HostView, folder: Path) -> None:
    """Copy the database that is worked on into a folder, while others may write it; raises HostFailed."""
    assert view.database is not None
    try:
        source = open_readonly(view.database.path, 10)
        with sqlite3.connect(folder / view.database.path.name) as target:
            source.backup(target)
        target.close()
        source.close()
    except sqlite3.Error as error:
        raise HostFailed(
            "database-broken",
            f"The database {view.relative(view.database.path)} cannot be read: {error}.",
            "Take it back from a copy, or make it anew with the host's own administration command.",
        ) from None


def _culprit(view: HostView, live: Live, without: Mapping[str, Any]) -> tuple[str, dict[str, Any]] | None:
    """Return the module that stopped the host's start or load, with the error; None where none can be told."""
    for step in ("start", "load"):
        error = live.failures.get(step)
        if error is None:
            continue
        for one in reversed(error["chain"]):
            for frame in reversed(one["frames"]):
                module = module_of(view, Path(frame["file"]))
                if module and module not in without:
                    return module, error
        text = " ".join(one["text"] for one in error["chain"])
        brought = _bringer(view, text)
        if brought and brought not in without:
            return brought, error
        for module in sorted((m.name for m in view.modules if m.own), key=len, reverse=True):
            if module in text and module not in without:
                return module, error
    return None


def _bringer(view: HostView, text: str) -> str:
    """Return the module with a class of a model that an error names: the one that extends it where nothing brings it.

    Empty where no module of the host's own has one.
    """
    named = set(_MODEL_NAMED.findall(text))
    extends = "is not a subclass" in text
    found = [
        (one.extends == extends, module.name)
        for module in view.modules
        if module.own
        for one in module.shared.models
        if one.model in named
    ]
    return max(found, default=(False, ""), key=lambda pair: pair[0])[1]


#  a model as the host's errors name it: by its class in the pool, or by itself (its 8.2)
_MODEL_NAMED = re.compile(r"(?:trytond\.pool\.|model )([\w-]+(?:\.[\w-]+)+)")


def module_of(view: HostView, path: Path) -> str:
    """Return the module in which a file lies; empty for none of the host's own."""
    return next((one.name for one in view.modules if one.own and path.is_relative_to(one.folder)), "")


def said(error: Mapping[str, Any]) -> str:
    """Return an error in one line: the last of its chain, which is its cause."""
    last = error["chain"][-1]
    text = " ".join(str(last["text"]).split())[:300]
    return f"{last['kind']}: {text}" if text else str(last["kind"])


def last_place(view: HostView, error: Mapping[str, Any]) -> tuple[str, int]:
    """Return file and line of the deepest frame of an error that lies in the host's own folder."""
    for one in reversed(error["chain"]):
        if one.get("file") and one.get("line"):
            return view.relative(Path(one["file"])), int(one["line"])
        for frame in reversed(one["frames"]):
            return view.relative(Path(frame["file"])), int(frame["line"])
    return "", 0
