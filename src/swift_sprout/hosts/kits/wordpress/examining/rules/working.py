"""What was seen of the module's code at work: filters, arguments, statements, rights, and what it does to others."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ......core.nearest import misspelt, said_near
from .names import gives_rights, rights_known

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

#  rights that are none of a role's: what the host turns into others, or never gives
_MADE_UP = ("exist", "do_not_allow")


def administration(exam: Examination) -> Iterator[Finding]:
    """Modules with which the site works, and no screen of the administration opens."""
    broke = exam.broke_administration
    if broke is None:
        return
    place, line, at = exam.place_of(broke)
    yield exam.find("registered.breaks-administration", place, line, reason=broke.said, at=at)


def others(exam: Examination) -> Iterator[Finding]:
    """Pages that are not the module's, and that its code breaks."""
    if not exam.loaded:
        return
    told = set()
    for request in exam.around:
        fatal = request.answer.fatal
        if fatal is not None and exam.holds(fatal.file) and (fatal.file, fatal.line) not in told:
            told.add((fatal.file, fatal.line))
            yield exam.find(
                "served.breaks-others", fatal.file, fatal.line, path=request.path, who=request.who, reason=fatal.said
            )
    started = exam.answers.get("started") or {}
    if started.get("fatal") and exam.holds(started["fatal"][2]):
        _, message, file, line, _ = started["fatal"]
        if (file, line) not in told:
            yield exam.find("served.breaks-others", file, line, path="/wp-admin/", who="administrator", reason=message)


def filters(exam: Examination) -> Iterator[Finding]:
    """Functions on filters that return nothing, or print what they should return."""
    told = set()
    for where, watched in exam.watched if exam.loaded else ():
        for sort, hook, text, file, first, last in watched.filters:
            if not exam.holds(file) or (sort, hook, file) in told:
                continue
            told.add((sort, hook, file))
            where_seen = where or "each page"
            if sort == "nothing":
                yield exam.find("registered.filter-loses", file, last, hook=hook, where=where_seen, first=first)
            else:
                printed = " ".join(text.split())[:60]
                yield exam.find("registered.filter-prints", file, first, hook=hook, where=where_seen, text=printed)


def printed_early(exam: Examination) -> Iterator[Finding]:
    """Code that prints on a hook before the page begins."""
    told = set()
    for where, watched in exam.watched if exam.loaded else ():
        if watched.early and exam.holds(watched.early[0]) and tuple(watched.early) not in told:
            file, line = watched.early
            told.add((file, line))
            yield exam.find("registered.printed-early", file, line, path=where)


def arguments(exam: Examination) -> Iterator[Finding]:
    """Functions on hooks that want more arguments than they are registered for."""
    if not exam.loaded:
        return
    told = set()
    for hook in exam.hooks:
        key = (hook["hook"], hook["name"])
        if hook["callable"] and hook["wants"] > hook["given"] and key not in told:
            told.add(key)
            path, line = _registered_at(exam, hook["hook"], hook["name"]) or (Path(hook["file"]), hook["line"])
            yield exam.find(
                "registered.arguments", path, line, hook=hook["hook"], what=hook["name"], wants=hook["wants"],
                given=hook["given"],
            )  # fmt: skip


def _registered_at(exam: Examination, hook: str, name: str) -> tuple[Path, int] | None:
    """Return where a function is hung on a hook, as far as the files say it."""
    short = name.rpartition("::")[2].rpartition("\\")[2].lower()
    for file, call in exam.calls("add_action", "add_filter"):
        if call.values[:1] == [hook] and len(call.nodes) > 1:
            if file.target(call.nodes[1], call.inside[0]).name.rpartition("\\")[2].lower() == short:
                return file.path, call.line
    return None


def statements_refused(exam: Examination) -> Iterator[Finding]:
    """Statements of the module that the database refused."""
    told = set()
    for where, watched in exam.watched if exam.loaded else ():
        for error, statement, file, line in watched.failures:
            if exam.holds(file) and (file, line) not in told:
                told.add((file, line))
                yield exam.find(
                    "installed.statement-refused", file, line, reason=error, statement=statement,
                    where=f" ({where})" if where else "",
                )  # fmt: skip


def rights_asked(exam: Examination) -> Iterator[Finding]:
    """Capabilities that the module's code asked for and that no role holds."""
    roles = exam.answers.get("roles") or {}
    if not exam.loaded or not roles or gives_rights(exam):
        return
    held = rights_known(exam) | set(_MADE_UP)
    told = set()
    for _, watched in exam.watched:
        for right, (file, line) in (watched.wanted or {}).items():
            if right in held or right in told or not exam.holds(file):
                continue
            told.add(right)
            near = misspelt(right, held)
            if near:
                yield exam.find("permitted.right-unknown", file, line, capability=right, near=said_near(near))


def guards_said(exam: Examination) -> Iterator[Finding]:
    """Guards of endpoints that answer nothing at all to somebody who may do everything, or break."""
    if not exam.loaded:
        return
    told = set()
    for guard in exam.answers.get("guards") or []:
        key = (guard["file"], guard["line"])
        if not exam.holds(guard["file"]) or key in told:
            continue
        if guard.get("fatal"):
            told.add(key)
            _, message, file, line, _ = guard["fatal"]
            place, at = (file, line) if exam.holds(file) else key
            yield exam.find(
                "permitted.guard-breaks", place, at, path=guard["route"], what=guard["name"], reason=message
            )
        elif guard.get("says") == "NULL":
            told.add(key)
            yield exam.find("permitted.guard-empty", *key, path=guard["route"], what=guard["name"])
