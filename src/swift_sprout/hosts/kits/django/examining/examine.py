"""Examining modules: rules and evidence put together into ladders and findings."""

from __future__ import annotations

import ast
import itertools
import re
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .....core.nearest import near_text, nearest
from .....core.results import SetupCheck
from .....running.cores import WORTH_IT, few_at_a_time, in_two_steps
from .....running.probe import step_in_words
from ..answers import Live, PageRequest
from ..asking import ERROR_LEVEL, FAILS_WHILE, Asking, last_place, said
from .across import explained, follow_host, of_modules, relate
from .evidence import evidence
from .examination import Examination
from .rules.closer import not_given, unread_template
from .rules.forms import sent_from
from .rules.templates import unknown_blocks_of_site
from .settings import absent_names, misspelt, shadows

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

    from .....core.findings import Finding
    from .....core.results import ModuleCheck
    from ....shared.judging import Kept
    from ..reading.modules import ModuleFiles
    from ..view import HostView
    from .rules import RuleFunction


#  the steps without which no page is asked


def examine(
    view: HostView,
    choose: Callable[[], Sequence[ModuleFiles]],
    live: bool,
    limit_seconds: float,
    kept_by: Kept | None = None,
) -> SetupCheck:
    """Check modules of a host, from its files alone or with the running host asked once for all of them.

    choose  -- returns the modules; called when the host's start is under way already
    kept_by -- how findings of files are kept for the next live check
    """
    answered: Live | None = None
    ahead: dict[str, list[Finding]] = {}
    if live and view.interpreter is not None:
        with Asking(view, limit_seconds) as asking:  # first of all: what follows is done while the host boots
            result = SetupCheck("real", live)
            modules = choose()
            answered = asking.about(modules, while_waiting=lambda: _read_ahead(view, modules, kept_by, ahead))
        _judge_start(view, answered, result)
    else:
        result = SetupCheck("real", live)
        modules = choose()
        if live:
            result.failure = "there is no interpreter with Django to run this host"
            tried = "; ".join(view.search.tried) or "nothing"
            result.failure_remedy = f"Name one with --runtime PATH. Looked at: {tried}"
            answered = Live(result.failure, result.failure_remedy)
    if answered is not None and not answered.failure:
        result.notes += [
            f"{name} stops the host as it stands; the others were checked without it" for name in answered.stopped
        ]
    told = (answered.answers if answered else {}).get("entry", {}).get("version", view.version)
    result.version = view.version if view.data.base is not None else told
    names = {module.name for module in modules}
    of_host = host_findings(view)
    result.host_findings = [finding for finding in of_host if finding.module not in names]
    if answered is not None:
        result.host_findings += host_wide(view, answered)
    many = len(modules) >= WORTH_IT

    def examined(few: Sequence[ModuleFiles]) -> list[ModuleCheck]:
        ones = [Examination(view, module, answered) for module in few]
        checked = _examine(ones, of_host, ahead)
        if many:
            view.project.forget(source for one in ones for source in one.sources_read)
        return checked

    if many and not ahead and modules is view.modules:
        view.prepare_sharing()
        result.modules = in_two_steps(modules, view.read_alone, partial(view.take_together, modules), examined)
    else:
        result.modules = few_at_a_time(examined, modules)
    if answered is not None:
        relate(result.modules, view, answered.stopped)
        of_whole = [*of_modules(result.host_findings, result.modules, view), *site_stops(view, answered)]
        result.host_findings = explained(of_whole, result.modules, answered.stopped)
        follow_host(result.modules, result.host_findings)
    return result


def examine_with(view: HostView, module: ModuleFiles, live: Live | None) -> tuple[SetupCheck, ModuleCheck]:
    """Judge one module with answers that were asked for before."""
    result = SetupCheck("real", live is not None)
    if live is not None:
        _judge_start(view, live, result)
    (checked,) = _examine([Examination(view, module, live)], host_findings(view), {})
    return result, checked


def host_wide(view: HostView, answered: Live) -> Iterator[Finding]:
    """Yield what the running host says that concerns no module alone."""
    if answered.answers.get("refuses_all"):
        hosts = view.settings.get("ALLOWED_HOSTS") or view.settings.get("DEBUG") if view.settings is not None else None
        file, line = (view.relative(hosts.file), hosts.line) if hosts is not None else ("", 0)
        yield view.data.rules.finding("served.hosts-empty", "", file, line, place=f"{file}:{line}")
    yield from host_pages(view, answered)
    yield from _not_told(view, answered)
    for rule in view.further.live_of_host:
        yield from rule(view, answered)
    for told in answered.undrawn:
        if not view.owner_of(told["file"]):
            yield unread_template(view, told, "")
    yield from sent_from(view, answered, "")
    addresses = answered.answers.get("address_names") or {}
    for told in addresses.get("redirects", ()) if not answered.stopped else ():  # whose addresses are left out as well
        file, line = _setting_said(view, told["setting"])
        values = {"setting": told["setting"], "said": told["said"], "near": near_text(told["said"], addresses["names"])}
        yield view.data.rules.finding("routed.setting-names-nothing", "", file, line, place=f"{file}:{line}", **values)
    every = [one for requests in answered.asked.values() for one in requests]
    yield from not_given(view, answered, every, "")
    labels = {module.label for module in view.modules}
    for message in answered.answers.get("checks") or []:
        module = str(message["module"])
        owned = message["label"] in labels or any(
            module == one.name or module.startswith(f"{one.name}.") for one in view.modules
        )
        if message["level"] >= ERROR_LEVEL and not owned and not message["id"].startswith("urls."):
            hint = message["hint"] or "fix what it names"
            text = f"{message['text']} ({message['id']})"
            file, line = _setting_said(view, f"{text} {hint}")
            place = f"{file}:{line}" if line else file
            yield view.data.rules.finding("enabled.check-failed", "", file, line, text=text, hint=hint, place=place)


_OF_DATABASE = ("OperationalError", "ProgrammingError", "DatabaseError", "InterfaceError")
#  the steps that rungs rest on; what the others would tell comes on top
_RESTED_ON = ("registry", "migrations", "rights")


def _not_told(view: HostView, answered: Live) -> Iterator[Finding]:
    """Yield the steps in which the host failed to answer, and which no module is to blame for."""
    for step, error in answered.failures.items() if not answered.failure else ():
        if step in FAILS_WHILE or (step == "migrations" and _is_in_module(view, error)):
            continue
        if any(one["kind"] in _OF_DATABASE for one in error["chain"]):
            continue  # tables that are not there yet are told as that
        place = last_place(error, view.root)
        file, line = (view.relative(place[0]), place[1]) if place else _setting_naming(view, said(error))
        values = {
            "step": step_in_words(step),
            "error": said(error),
            "place": f"{file}:{line}" if file else "what it says",
        }
        code = "served.not-told" if step in _RESTED_ON else "served.less-told"
        yield view.data.rules.finding(code, "", file, line, **values)


def _is_in_module(view: HostView, error: dict[str, Any]) -> bool:
    """True for migrations that cannot be loaded where a module's own are to blame, which is told of it."""
    named = re.search(r"Migration (?:\w+ in app )?(\w+)", said(error))  # or "Migration label.0001_initial …"
    label = named[1] if named else ""
    return any(last_place(error, module.folder) or module.label == label for module in view.modules)


def _setting_naming(view: HostView, text: str) -> tuple[str, int]:
    """Return the line of the settings that names what an error is about; nowhere where none does."""
    names = re.findall(r"No module named '([\w.]+)'", text)
    for path in view.settings.files if view.settings is not None else ():
        source = view.project.parse(path)
        for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
            held = node.value if isinstance(node, ast.Constant) else None
            if isinstance(held, str) and any(held == name or held.startswith(f"{name}.") for name in names):
                return view.relative(path), node.lineno  # type: ignore[attr-defined]
    return "", 0


def host_pages(view: HostView, answered: Live) -> Iterator[Finding]:
    """Yield the pages of no module that end with an error of the server, each cause once."""
    places: set[tuple[str, int]] = set()
    for asked in answered.asked.get("", ()):
        error = asked.log.get("error")
        if asked.answer.status < 500 or error is None:
            continue
        passed = error.get("place") or error.get("class")
        named = _naming_template(view, error)
        otherwise = view.project.file_of(view.root_urls) if view.root_urls else None
        place = (Path(passed[0]), int(passed[1])) if passed else (otherwise or view.project.entry, 0)
        file, line = named or (view.relative(place[0]), place[1])
        if (file, line) not in places:
            places.add((file, line))
            values = {"path": asked.path, "error": said(error), "place": f"{file}:{line}" if line else file}
            circle = "in a circle of templates" if error.get("circle") else ""
            yield view.data.rules.finding("served.host-page", "", file, line, circle=circle, **values)


def _naming_template(view: HostView, error: dict[str, Any]) -> tuple[str, int] | None:
    """Return the line that names a template which is not there: the template above it, else the code."""
    absent = next((one["text"].split(",")[0] for one in error["chain"] if one["kind"] == "TemplateDoesNotExist"), "")
    for template in view.templates.all if absent else ():
        for tag in template.tags:
            if tag.name in ("extends", "include") and tag.first_text == absent:
                return view.relative(template.path), tag.line
    root = view.project.file_of(view.root_urls) if absent and view.root_urls else None
    source = view.project.parse(root) if root is not None else None
    for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
        if isinstance(node, ast.Constant) and node.value == absent:
            return view.relative(source.path), node.lineno  # type: ignore[union-attr]
    return None


def site_stops(view: HostView, answered: Live) -> Iterator[Finding]:
    """Yield why the host as a whole does not start, at the deepest line of its own: no module of it is to blame."""
    for step in FAILS_WHILE:
        error = answered.failures.get(step)
        if error is not None:
            file, line = _stopped_at(view, step, error)
            values = {"step": FAILS_WHILE[step], "error": said(error), "place": f"{file}:{line}" if line else file}
            yield view.data.rules.finding("enabled.site-stops", "", file, line, **values)
            return


def _stopped_at(view: HostView, step: str, error: dict[str, Any]) -> tuple[str, int]:
    """Return the line that stops the host: the one that names what is not there, else the deepest of its own code."""
    deepest = last_place(error, view.root)
    files = [view.project.entry, *(view.settings.files if view.settings is not None else ())]
    starting = [*files, *([wsgi] if (wsgi := _wsgi_file(view)) is not None else [])]
    if deepest is not None and deepest[0] not in starting:
        return view.relative(deepest[0]), deepest[1]
    if step != "routes":
        named = _naming(view, files, " ".join(str(one["text"]) for one in error["chain"]))
        if named is not None:
            return named
    file, line = _setting_said(view, " ".join(str(one["text"]) for one in error["chain"]))
    if line:
        return file, line
    if deepest is not None and deepest[0] != view.project.entry:
        return view.relative(deepest[0]), deepest[1]
    listed = view.settings.get("INSTALLED_APPS") if view.settings is not None else None
    if step == "setup" and listed is not None and listed.literals:
        return view.relative(listed.literals[-1].file), listed.literals[-1].node.lineno
    path = view.settings.path if view.settings is not None else None
    return (view.relative(path), 0) if path is not None else (view.relative(view.project.entry), 0)


def _setting_said(view: HostView, text: str) -> tuple[str, int]:
    """Return the line of the first setting that a sentence names in capitals; else the settings file, line 0."""
    if view.settings is None or view.settings.path is None:
        return view.relative(view.project.entry), 0
    for word in re.findall(r"\b[A-Z][A-Z_]{3,}\b", text):
        value = view.settings.get(word)
        if value is not None:
            return view.relative(value.file), value.line
    return view.relative(view.settings.path), 0


def _wsgi_file(view: HostView) -> Path | None:
    named = view.settings.plain("WSGI_APPLICATION", "") if view.settings is not None else ""
    return view.project.file_of(str(named).rpartition(".")[0])


def _naming(view: HostView, files: Iterable[Path], text: str) -> tuple[str, int] | None:
    """Return the line of the entry script or the settings that names what an error says is absent."""
    words = re.findall(r"['\"]([\w.]+)['\"]", text)
    #  of a module without a name in it, the two together come first
    names = [*(f"{one}.{other}" for one, other in itertools.permutations(words[:3], 2)), *words]
    for name in dict.fromkeys(names):
        for path in files:
            source = view.project.parse(path)
            for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
                if not isinstance(node, ast.Constant) or not isinstance(node.value, str):
                    continue
                if node.value == name or ("." in name and node.value.startswith(f"{name}.")):
                    return view.relative(path), node.lineno
    return None


def _judge_start(view: HostView, answered: Live, result: SetupCheck) -> None:
    """Tell why the host as a whole did not start, if it did not."""
    for step in FAILS_WHILE:
        error = answered.failures.get(step)
        if error is not None and not answered.failure:
            place = last_place(error, view.root)
            where = f" ({view.relative(place[0])}:{place[1]})" if place else ""
            answered.failure = f"the host fails {FAILS_WHILE[step]}{where}: {said(error)}"
            answered.failure_remedy = _remedy(step, error)
    result.failure, result.failure_remedy = answered.failure, answered.failure_remedy


def _read_ahead(
    view: HostView, modules: Sequence[ModuleFiles], kept_by: Kept | None, ahead: dict[str, list[Finding]]
) -> None:
    """Do while the host boots what needs only the files: the rules that no answer changes."""
    import http.client  # noqa: F401

    from ....shared.judging import findings_ahead
    from .rules import STATIC, WITH_LIVE

    rules = [rule for rule in STATIC if rule not in WITH_LIVE] + [*view.further.static]

    def from_files() -> dict[str, list[Finding]]:
        found = _findings_of([Examination(view, module) for module in modules], rules)
        return {module.name: own for module, own in zip(modules, found, strict=True)}

    if not ahead:
        ahead.update(findings_ahead(kept_by, [module.name for module in modules], view.data.rules, from_files))


def _remedy(step: str, error: dict[str, object]) -> str:
    chain = error["chain"]
    assert isinstance(chain, list)
    first = chain[0]
    if first["kind"] == "KeyError" and step in ("entry", "settings"):
        return f"Set the environment variable {first['text']} and run the command again."
    if first["kind"] == "ModuleNotFoundError":
        missing = first.get("missing") or "it"
        return f"Install {missing} for the host's interpreter, or fix the name where it is imported."
    return "Fix what is named there; the host itself stops in the same way."


def host_findings(view: HostView) -> list[Finding]:
    """Return findings about the settings: names that lead nowhere, and entries whose package is not there."""
    found: list[Finding] = [*absent_names(view), *misspelt(view), *shadows(view), *unknown_blocks_of_site(view)]
    found += [finding for rule in view.further.of_host for finding in rule(view)]
    if view.interpreter is None:
        return found
    for entry in view.listed:
        package = view.app_of(entry.value)
        top = package.split(".")[0]
        if view.project.folder_of(package) or view.project.file_of(package) or view.interpreter.has(top):
            continue
        if not view.interpreter.libraries or top in view.interpreter.top_level_names():
            continue
        names = [module.name for module in view.modules if view.entry_of(module) is None]
        if sum(package.startswith(name) or package.endswith(name) for name in names) > 1:
            continue  # two entries that Python joined: said by the rule for missing commas
        folders = {module.folder.name: module.name for module in view.modules if module.name in names}
        near = nearest(package, folders)
        values = {"entry": entry.value, "package": package, "place": f"{view.relative(entry.file)}:{entry.line}"}
        code = "found.misspelt" if near else "found.absent"
        file = view.relative(entry.file)
        found.append(
            view.data.rules.finding(
                code, folders[near] if near else package, file, entry.line, near=near or "", **values
            )
        )
    return found


def _holds(exam: Examination, finding: Finding) -> bool:
    """True when the rule of a finding holds for the host's version, or that is not known, and no answer refutes it."""
    from ....contract.kitdata import matches
    from .refuting import is_refuted

    if is_refuted(exam, finding):
        return False

    answered = exam.live.answers.get("entry", {}).get("version", "") if exam.live is not None else ""
    version, range_ = answered or exam.view.version, exam.view.data.rules[finding.code].versions
    return not version or not range_ or matches(version, range_)


def _examine(
    ones: Sequence[Examination], of_host: Sequence[Finding], ahead: Mapping[str, list[Finding]]
) -> list[ModuleCheck]:
    """Judge modules; ``ahead`` are the findings from their files alone, where they were made before."""
    from .rules import LIVE, STATIC, WITH_LIVE
    from .rules.enabling import stopped

    further = ones[0].view.further
    live = ones[0].live
    asked: tuple[RuleFunction, ...] = ()
    if live is not None:  # of a host that does not run it is still known which modules had to be left out, and why
        asked = (*LIVE, *further.live) if not live.failure else (stopped,)
    rules = (*STATIC, *further.static) if not ahead else WITH_LIVE
    found = _findings_of(ones, (*rules, *asked))
    return [
        _judge(
            one, [*(each for each in of_host if each.module == one.module.name), *ahead.get(one.module.name, ()), *own]
        )
        for one, own in zip(ones, found, strict=True)
    ]


def _findings_of(ones: Sequence[Examination], rules: Iterable[RuleFunction]) -> list[list[Finding]]:
    """Return what rules find in each of some modules; each rule asks all of them before the next one does."""
    found: list[list[Finding]] = [[] for _ in ones]
    for rule in rules:
        for one, own in zip(ones, found, strict=True):
            own.extend(rule(one))
    return found


def _judge(exam: Examination, found: Iterable[Finding]) -> ModuleCheck:
    """Judge one module by what was found."""
    from ....shared.judging import judged

    findings = [finding for finding in found if _holds(exam, finding)]
    failure = exam.live.failure if exam.live is not None else ""
    good = [ask for ask in exam.asked if 200 <= ask.answer.status < 300]
    checked = judged(exam.module.name, exam.module.title, findings, evidence(exam), failure, _times(good))
    return checked._replace(times=_times(exam.asked))


def _times(asked: Sequence[PageRequest]) -> list[tuple[str, float]]:
    return [(ask.path, ask.answer.seconds) for ask in asked]
