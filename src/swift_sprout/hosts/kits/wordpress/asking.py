"""Asking the running host: one process loads it as a page of the site does, another as its administration does."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from ....core.errors import HostFailed
from ....running.cores import Meanwhile
from ...contract.exchange import StartUp
from ...shared.leaving_out import start_without_culprits
from .php import ONE_BY_ONE, Told, first_line, tell
from .view import down

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

SITE = "ask.php"
ADMINISTRATION = "administer.php"


#  steps in which things are tried on what is made up: where the host itself breaks in one, less was tried, and the next
#  check may try it; what a module breaks there is told
TRIED = {
    *("made_up", "made_up_there", "terms", "terms_there", "drawn_again", "screens_again", "writing", "done", "data"),
    *("pages_again", "sent", "sent_there", "lists", "of_terms", "of_contents", "widgets", "looks", "sorted", "answers"),
    *("anew", "uninstalling"),
}
CONTENT = "wp-content"  # below it lie modules and themes

#  how the host says that something on a hook is not there
_NOT_CALLABLE = re.compile(r"valid callback, .*?(?:function|method) \"(\w+)\"")


class Fatal(NamedTuple):
    """What ended the host's run: the sort, the message, the place, and the module that was loaded last before it."""

    sort: str
    message: str
    file: str
    line: int
    after: str

    @property
    def said(self) -> str:
        """The message without the trace behind it."""
        return self.message.split("\nStack trace:")[0].split(" in /")[0].strip()

    @property
    def absent(self) -> str:
        """The function or method that the host should have called and that is not there; empty for other ends."""
        named = _NOT_CALLABLE.search(self.message)
        return named.group(1) if named else ""


class Watched(NamedTuple):
    """What was seen of modules' code while the host ran.

    problems -- warnings: sort, message, file, line
    filters  -- callbacks of filters that lost the value (``nothing``) or printed: sort, hook, text, file, first and
                last line
    failures -- statements that the database refused: its message, the statement, file, line
    early    -- file and line of what was printed before a page began; empty for nothing
    redirect -- file and line that led elsewhere; empty for nothing
    wrong    -- calls that the called function says are wrong: its name, what it says, file, line
    wanted   -- capabilities that modules asked for: file and line of the first time
    """

    problems: list[list[Any]]
    filters: list[list[Any]]
    failures: list[list[Any]]
    early: list[Any]
    redirect: list[Any]
    wrong: list[list[Any]]
    wanted: dict[str, list[Any]]


def watched_of(told: Mapping[str, Any]) -> Watched:
    """Return what a run of the host told of itself at its end."""
    names = ("problems", "filters", "failures", "early", "redirect", "wrong")
    return Watched(wanted=dict(told.get("wanted") or {}), **{name: list(told.get(name) or []) for name in names})


class Boot(NamedTuple):
    """What one run of the host told; ``fatal`` is None when it came to its end."""

    answers: dict[str, Any]
    guard: dict[str, Any]
    fatal: Fatal | None
    output: str

    @property
    def booted(self) -> bool:
        """True when the host was loaded."""
        return bool(self.answers.get("booted"))

    @property
    def untold(self) -> list[tuple[str, str, str, int]]:
        """The questions that it did not answer: each with the reason, and file and line of what broke there."""
        failed = self.answers.get("failed") or {}
        found = [(step, str(message), str(file), int(line)) for step, (message, file, line) in failed.items()]
        drawn = [one for sort in ONE_BY_ONE for one in (self.answers.get(sort) or {}).values() if isinstance(one, dict)]
        if self.booted and "finished" not in self.answers and not any(one.get("ended") for one in drawn):
            fatal = self.fatal
            said, file, line = (fatal.said, fatal.file, fatal.line) if fatal is not None else ("the run ended", "", 0)
            found.append((str(self.answers.get("step", "")), said, file, line))
        return [one for one in found if one[0] not in TRIED or CONTENT in Path(one[2]).parts]

    @property
    def watched(self) -> Watched:
        """What was seen of modules' code in this run."""
        return watched_of(self.guard)


MOST_ENDS = 6  # things that are tried and end the run, after each of which it is gone on with


def _ended(acted: Mapping[str, Mapping[str, Any]]) -> bool:
    """True where the last thing that was tried ended the run, as code does on purpose that prints a file."""
    return bool(acted) and bool(list(acted.values())[-1].get("ended"))


def _go_on(answers: dict[str, Any], guard: dict[str, Any], further: Told) -> None:
    """Add what a run told that went on where another had ended."""
    watched = further.answers.pop("guard", {})
    for name, told in further.answers.items():
        if name in ONE_BY_ONE:
            answers.setdefault(name, {}).update(told)
        elif name not in answers or name in ("step", "finished"):
            answers[name] = told
    for name, told in watched.items():
        before = guard.get(name) or []
        if told and isinstance(told, list) and isinstance(before, list) and name != "fatal":
            guard[name] = [*before, *(one for one in told if one not in before)]
    guard["fatal"] = watched.get("fatal") or guard.get("fatal")


def boot(view: HostView, limit_seconds: float, script: str = SITE, **question: Any) -> Boot:
    """Load the host once and return what it told; raises HostFailed when it cannot even be tried."""
    php = view.ready(limit_seconds)
    told = tell(php, script, view.root, question, limit_seconds, view.environment())
    guard = told.answers.pop("guard", {})
    for _ in range(MOST_ENDS):
        acted = told.answers.get("acted") or {}
        if told.status is None or guard.get("fatal") or "finished" in told.answers or not _ended(acted):
            break
        _go_on(told.answers, guard, tell(
            php, script, view.root, {**question, "from": told.answers["step"], "passed": list(acted)},
            limit_seconds, view.environment(),
        ))  # fmt: skip
    fatal = Fatal(*guard["fatal"]) if guard.get("fatal") else None
    if told.status is None:
        fatal = fatal or Fatal(
            "time", f"it did not answer within {limit_seconds:.0f} s", "", 0, str(told.answers.get("loaded", ""))
        )
    return Boot(told.answers, guard, fatal, told.output)


class HolderScreen(NamedTuple):
    """A screen of the administration, drawn for somebody who holds a role that has the right the menu asks for.

    told -- as the host told it: status, what was said at the end, and where that was
    """

    role: str
    right: str
    file: str
    told: Mapping[str, Any]


@dataclass(frozen=True)
class AskedHost:
    """What the host told as a page of the site loads it, and as its administration does.

    left_out                -- the modules without which it was asked, for they stop it, and what they did
    administration          -- None where that was not asked, or where it does not start
    left_out_there          -- the modules that stop the administration only
    administration_failure  -- why the administration does not start; empty where it does
    as_holders              -- by slug, a screen as people see it whose role has the right that its menu entry needs
    """

    boot: Boot
    left_out: dict[str, Fatal]
    administration: Boot | None = None
    left_out_there: Mapping[str, Fatal] = field(default_factory=dict)
    administration_failure: str = ""
    as_holders: Mapping[str, HolderScreen] = field(default_factory=dict)

    @property
    def boots(self) -> list[Boot]:
        """Every run of the host that was asked."""
        return [self.boot] if self.administration is None else [self.boot, self.administration]

    @cached_property
    def answers(self) -> dict[str, Any]:
        """What both told under one name each: of hooks and registrations, everything that either knows."""
        if self.administration is None:
            return self.boot.answers
        there = self.administration.answers
        merged = there | self.boot.answers
        merged["hooks"] = [*(self.boot.answers.get("hooks") or []), *(there.get("hooks") or [])]
        merged["acted"] = {**(there.get("acted") or {}), **(self.boot.answers.get("acted") or {})}
        here_made, there_made = self.boot.answers.get("made") or {}, there.get("made") or {}
        here_names, there_names = self.boot.answers.get("names") or {}, there.get("names") or {}
        merged["names"] = {
            sort: sorted({*(here_names.get(sort) or []), *(there_names.get(sort) or [])})
            for sort in {*here_names, *there_names}
        }
        merged["made"] = {
            hook: [*here_made.get(hook, []), *there_made.get(hook, [])] for hook in {*here_made, *there_made}
        }
        return merged

    @cached_property
    def hooks_by_file(self) -> dict[str, list[dict[str, Any]]]:
        """What hangs on the host's hooks, by the file of what is called."""
        found: dict[str, list[dict[str, Any]]] = {}
        for hook in self.answers.get("hooks") or []:
            found.setdefault(hook["file"], []).append(hook)
        return found

    @cached_property
    def hooked(self) -> frozenset[str]:
        """The hooks on which something hangs."""
        return frozenset(hook["hook"] for hook in self.answers.get("hooks") or [])

    @cached_property
    def gives_rights(self) -> bool:
        """True when a module gives rights by code while a page is asked for: what roles hold is not all there is."""
        of_modules = (hook for file, hooks in self.hooks_by_file.items() if file for hook in hooks)
        return any(hook["hook"] in ("user_has_cap", "map_meta_cap") for hook in of_modules)

    @cached_property
    def rights(self) -> frozenset[str]:
        """The capabilities that some role holds."""
        return frozenset(name for role in (self.answers.get("roles") or {}).values() for name in role["holds"])


#  the last answer for which nothing of a module is drawn or called yet
_KNOWN = {SITE: "jobs", ADMINISTRATION: "menu"}


def ask_host(view: HostView, limit_seconds: float, script: str = SITE, **question: Any) -> AskedHost:
    """Load the host; where a module breaks it, leave that one out and ask for the others.

    Raises HostFailed when it does not run for another reason.
    """
    keys = {module.name: module.key for module in view.modules}

    def start(left_out: Mapping[str, Fatal]) -> Boot:
        return boot(view, limit_seconds, script, without=[keys[name] for name in left_out], **question)

    def runs(found: Boot) -> bool:
        return found.booted and (found.fatal is None or _KNOWN[script] in found.answers)

    def culprit(found: Boot, left_out: Mapping[str, Fatal]) -> tuple[str, Fatal] | None:
        if runs(found) or found.fatal is None:
            return None
        module = culprit_of(view, found.fatal, left_out)
        return (module.name, found.fatal) if module is not None else None

    found, left_out = start_without_culprits(start, culprit, len(view.modules) + 1)
    if not runs(found) and found.fatal is not None and not left_out:
        found, left_out = _tried_without_each(view, found, start, runs)
    if runs(found):
        return AskedHost(found, left_out)
    said = found.fatal.said if found.fatal is not None else ""
    place = f" ({view.relative(Path(found.fatal.file))}:{found.fatal.line})" if said and found.fatal else ""
    sentence = f"The host does not start: {said}{place}" if said else down(found.output)
    raise HostFailed("host-broke", sentence, "Look at the host's own log; the checks of files are made.")


MOST_TRIED = 12  # modules of which each is left out once, where nothing tells which one stops the host


def _tried_without_each(
    view: HostView,
    stopped: Boot,
    start: Callable[[Mapping[str, Fatal]], Boot],
    runs: Callable[[Boot], bool],
) -> tuple[Boot, dict[str, Fatal]]:
    """Start the host without one module after another, until it runs; returns what it told then, and that module."""
    assert stopped.fatal is not None
    for module in [one for one in view.modules if view.is_on(one)][:MOST_TRIED]:
        without = {module.name: stopped.fatal}
        found = start(without)
        if runs(found):
            return found, without
    return stopped, {}


def ask_both(view: HostView, limit_seconds: float, **question: Any) -> AskedHost:
    """Load the host as a page of the site does, and at the same time as its administration does.

    Raises HostFailed when the site does not run; an administration that does not is told in the answer.
    """
    there = Meanwhile(lambda: ask_host(view, limit_seconds, ADMINISTRATION, **question))
    try:
        site = ask_host(view, limit_seconds, **question)
    finally:
        there.wait()
    try:
        administration = there.result()
    except HostFailed as error:
        return replace(site, administration_failure=error.sentence)
    only_there = {name: fatal for name, fatal in administration.left_out.items() if name not in site.left_out}
    return replace(site, administration=administration.boot, left_out_there=only_there)


MOST_ROLES = 2  # in which screens are drawn again: each is one more start of the administration


def ask_as_holders(view: HostView, asked: AskedHost, limit_seconds: float, **question: Any) -> AskedHost:
    """Draw the modules' screens again for people whose role has just the right that the menu asks for.

    Only what an administrator could open is drawn again, and only where another role has that right: what else such
    people would be asked for is a slip of the module.
    """
    if asked.administration is None:
        return asked
    wanted = _wanted_by_role(asked)
    without = [module.key for module in view.modules if module.name in {**asked.left_out, **asked.left_out_there}]
    found: dict[str, HolderScreen] = {}
    for role, entries in list(wanted.items())[:MOST_ROLES]:
        again = boot(view, limit_seconds, ADMINISTRATION, without=without, roles=[role], only=["screens"], **question)
        for slug, told in (again.answers.get("screen") or {}).items():
            if slug in entries and not told.get("ended"):
                found[slug] = HolderScreen(role, entries[slug], told["file"], told)
    return replace(asked, as_holders=found)


def _wanted_by_role(asked: AskedHost) -> dict[str, dict[str, str]]:
    """Return by role the screens to be drawn for it, each with the right that its entry in the menu asks for."""
    assert asked.administration is not None
    opened = {
        slug
        for slug, told in (asked.administration.answers.get("screen") or {}).items()
        if told.get("status") == 200 and not told.get("ended")
    }
    rights = {entry["slug"]: str(entry["needs"]) for entry in asked.administration.answers.get("menu") or []}
    held = {name: set(role["holds"]) for name, role in (asked.boot.answers.get("roles") or {}).items()}
    fewest = sorted((name for name in held if name != "administrator"), key=lambda name: len(held[name]))
    wanted: dict[str, dict[str, str]] = {}
    for slug in sorted(opened & rights.keys()):
        role = next((name for name in fewest if rights[slug] in held[name]), None)
        if role is not None:
            wanted.setdefault(role, {})[slug] = rights[slug]
    return dict(sorted(wanted.items(), key=lambda one: -len(one[1])))


def culprit_of(view: HostView, fatal: Fatal, left_out: Mapping[str, Fatal]) -> ModuleFiles | None:
    """Return the module that ended a run: the one whose file it is, else the one that was loaded last."""
    here = [one for one in view.modules if one.name not in left_out]
    for module in here:
        if fatal.file and (Path(fatal.file) == module.place or module.place in Path(fatal.file).parents):
            return module
    if fatal.absent:  # the host says only what it cannot call: the module that names it
        for module in here:
            said = [f"{quote}{fatal.absent}{quote}".encode() for quote in "'\""]
            if view.is_on(module) and any(one in content for content in module.contents.values() for one in said):
                return module
    if view.state is None:
        return None
    gone = {module.key for module in view.modules if module.name in left_out}
    active = [key for key in view.state["active"] if key not in gone]
    following = active.index(fatal.after) + 1 if fatal.after in active else 0
    if fatal.after == (active or [""])[-1] or following >= len(active):
        return None
    return next((one for one in here if one.key == active[following]), None)


def start_up(view: HostView, limit_seconds: float) -> StartUp:
    """Start the host once, with all modules that are on."""
    if view.php is None:
        return StartUp(False)
    try:
        active = view.ask_state(limit_seconds)["active"]
        question = {"file": "", "what": "start"}
        told = tell(view.ready(limit_seconds), "turn.php", view.root, question, limit_seconds, view.environment())
    except HostFailed as error:
        return StartUp(True, (error.sentence,))
    if "done" not in told.answers:
        message = told.answers.get("fatal", [told.answers.get("printed") or told.output])[0]
        return StartUp(True, (f"it stops: {first_line(str(message))}",))
    return StartUp(True, (), frozenset(one.name for one in view.modules if one.key in active))
