"""Examining modules: rules and evidence put together into ladders and findings."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from .....core.nearest import nearest, said_near
from .....core.results import ModuleCheck, SetupCheck
from .....running.cores import WORTH_IT, Meanwhile, both_cores, in_two_steps
from ....shared.judging import findings_ahead, judged
from ....shared.viewed import work_out
from ..asking import (
    IN_DATABASE,
    Live,
    ask,
    ask_updated,
    last_place,
    module_of,
    newer_than_database,
    said,
    taken_over,
)
from ..reading.modules import CORE
from ..view import ON
from .across import relate
from .evidence import evidence
from .examination import Examination
from .rules import LIVE, STATIC

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

    from .....core.findings import Finding
    from ....shared.judging import Kept
    from ..reading.modules import ModuleFiles
    from ..reading.shared import Shared
    from ..view import HostView


def examine(
    view: HostView,
    modules: Sequence[ModuleFiles],
    live: bool,
    limit_seconds: float,
    named: bool,
    kept_by: Kept | None = None,
) -> SetupCheck:
    """Check modules of a host, from its files alone or with the running host asked once for all of them.

    named   -- whether the modules were asked for by their names
    kept_by -- how findings of files are kept for the next live check
    """
    result = SetupCheck("real", live)
    ahead: dict[str, list[Finding]] = {}

    def read_ahead() -> None:
        """Do what needs only the files while the host boots."""
        if not ahead:
            names = [module.name for module in modules]
            ahead.update(findings_ahead(kept_by, names, view.data.rules, from_files, "by name" if named else ""))

    def from_files() -> dict[str, list[Finding]]:
        return {module.name: static_findings(Examination(view, module, None, named)) for module in modules}

    answered: Live | None = None
    if live and view.interpreter is not None:
        deep = [module.name for module in modules if module.own or named]
        answered = _asked(view, modules, limit_seconds, {"deep": deep}, read_ahead)
        answered.deep = frozenset(deep)
        result.failure, result.failure_remedy = answered.failure, answered.failure_remedy
        result.notes += [
            f"{name} stops the host as it stands; the others were checked without it"
            for name in answered.stopped
            if not answered.failure
        ]
    elif live:
        result.failure = "there is no interpreter with trytond to run this host"
        tried = "; ".join(view.search.tried) or "nothing"
        result.failure_remedy = f"Name one with --runtime PATH. Looked at: {tried}"
    result.version = (answered.answers if answered else {}).get("host", {}).get("version", view.version)

    def judged_of(few: Sequence[ModuleFiles]) -> list[ModuleCheck | None]:
        return [judge(one) if one.name not in CORE else None for one in few]

    def judge(module: ModuleFiles) -> ModuleCheck:
        return examine_one(Examination(view, module, answered, named), result.failure, ahead.get(module.name))

    if len(modules) >= WORTH_IT and modules is view.modules and not ahead:
        every = [*modules, *view.core]
        work_out(view, "order", "database", "undefined")  # which belong to no module alone
        found = in_two_steps(every, shared_of_all, partial(take_shared, every), judged_of, at_a_time=1)
        result.modules = [one for one in found if one is not None]
    else:
        result.modules = both_cores(judge, modules)
    if answered is not None:
        relate(result.modules, view, answered.stopped)
    result.host_findings = [*host_findings(view), *(_untold(view, answered) if answered is not None else ())]
    return result


def _asked(
    view: HostView,
    modules: Sequence[ModuleFiles],
    limit_seconds: float,
    more: Mapping[str, Any],
    read_ahead: Callable[[], None],
) -> Live:
    """Ask the running host: as its files say where they are newer than the database, which is updated in a copy."""
    newer = newer_than_database(view, modules)
    if not newer:
        return ask(view, modules, limit_seconds, more=more, meanwhile=read_ahead)
    update = {**more, "update": [module.name for module in newer]}
    updating = Meanwhile(lambda: ask_updated(view, modules, limit_seconds, update))
    answered = ask(view, modules, limit_seconds, IN_DATABASE, more, read_ahead)
    if taken_over(answered, updating.result(), newer):
        return answered
    again = ask(view, modules, limit_seconds, more=more)
    again.updated, again.update_failure = answered.updated, answered.update_failure
    return again


def shared_of_all(modules: Sequence[ModuleFiles]) -> list[Shared]:
    """Return what some modules tell the others."""
    return [module.shared for module in modules]


def take_shared(modules: Sequence[ModuleFiles], shared: Sequence[Shared]) -> None:
    """Take what modules tell the others, read elsewhere."""
    for module, told in zip(modules, shared, strict=True):
        module.shared = told


def _untold(view: HostView, answered: Live) -> Iterator[Finding]:
    """Yield what the host could not be asked for: a step that broke, with the module in which it did."""
    if answered.failure:
        return
    for step, error in answered.failures.items():
        if step not in ("host", "modules", "start", "load", "order"):  # which are told by themselves
            file, line = last_place(view, error)
            owner = module_of(view, view.root / file) if file else ""
            yield view.data.rules.finding(
                "served.not-told", owner or "the host", file or "trytond.conf", line,
                step=step, reason=said(error), place=f"{file}:{line}" if file else "what it says",
            )  # fmt: skip


def host_findings(view: HostView) -> list[Finding]:
    """Return findings that belong to no module: entry points of modules that are not there, the database's series."""
    found = []
    names = {module.name for module in view.modules}
    if view.interpreter is not None:
        for entry in view.entries:
            if entry.name not in names and view.package_folder(entry.package) is None:
                near = nearest(entry.name, names)
                place = f"{view.relative(entry.file)}:{entry.line}"
                found.append(
                    view.data.rules.finding(
                        "found.entry-absent",
                        entry.name,
                        view.relative(entry.file),
                        entry.line,
                        package=entry.package,
                        place=place,
                        near=said_near(near),
                    )
                )
    folders = {module.folder.name for module in view.modules}
    for name, state in view.database.states.items() if view.database is not None else ():
        if state in ON and name not in names | folders and name not in CORE:
            found.append(view.data.rules.finding("found.gone", name, f"modules/{name}", state=state))
    if view.database is not None and view.series and view.database.series not in ("", view.series):
        found.append(
            view.data.rules.finding(
                "compatible.series",
                "the host",
                view.relative(view.database.path),
                database=view.database.series,
                version=view.series,
            )
        )
    return found


def static_findings(exam: Examination) -> list[Finding]:
    """Return what the files of a module alone tell."""
    return [finding for rule in STATIC for finding in rule(exam) if _holds(exam, finding)]


def examine_one(exam: Examination, failure: str = "", ahead: list[Finding] | None = None) -> ModuleCheck:
    """Judge one module; ``ahead`` are the findings from its files alone, where they were made before."""
    asked = LIVE if exam.live is not None and "modules" in exam.live.answers else ()
    findings = static_findings(exam) if ahead is None else list(ahead)
    findings += [finding for rule in asked for finding in rule(exam) if _holds(exam, finding)]
    pages = [page for page in exam.answers("pages") if page["status"] is not None and 200 <= page["status"] < 300]
    times = [(page["asked"], page["seconds"]) for page in pages]
    return judged(exam.module.name, exam.module.title, findings, evidence(exam), failure, times)


def _holds(exam: Examination, finding: Finding) -> bool:
    """True when the rule of a finding holds for the host's version, or that is not known."""
    from ....contract.kitdata import matches

    range_ = exam.view.data.rules[finding.code].versions
    return not exam.view.version or not range_ or matches(exam.view.version, range_)
