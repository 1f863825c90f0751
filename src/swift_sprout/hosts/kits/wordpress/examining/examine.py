"""Examining modules: rules and evidence put together into ladders and findings."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from .....core.errors import HostFailed
from .....core.results import ModuleCheck, SetupCheck
from .....running.cores import Meanwhile, letting_go
from ....shared.judging import findings_ahead, judged
from ..asking import EVERYTHING, AskedHost, Fatal, Page, Pages, ask_host
from ..php import Php, tell
from ..reading.routes import pages_of
from .evidence import evidence
from .examination import Compiled, Examination, Request
from .rules import LIVE, STATIC
from .rules.code import syntax

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ....shared.judging import Kept
    from ..reading.modules import ModuleFiles
    from ..view import HostView


MANY_MODULES = 6  # for which a second server pays


def examine(
    view: HostView, modules: Sequence[ModuleFiles], live: bool, limit_seconds: float, kept_by: Kept | None = None
) -> SetupCheck:
    """Check modules of a host, from its files alone or with the running host asked once for all of them."""
    if live:
        return examine_with_answers(view, modules, limit_seconds, kept_by)[0]
    return _examine(view, modules, False, limit_seconds, kept_by)[0]


def examine_with_answers(
    view: HostView, modules: Sequence[ModuleFiles], limit_seconds: float, kept_by: Kept | None = None
) -> tuple[SetupCheck, AskedHost | None]:
    """Check modules with the running host, and return what it told as well; None when it did not run."""
    return _examine(view, modules, True, limit_seconds, kept_by)


def _examine(
    view: HostView, modules: Sequence[ModuleFiles], live: bool, limit_seconds: float, kept_by: Kept | None
) -> tuple[SetupCheck, AskedHost | None]:
    result = SetupCheck("real", live, view.version)
    compiled: Compiled | None = None
    asked: AskedHost | None = None
    requests: dict[str, list[Request]] = {}
    ahead: dict[str, list[Finding]] = {}

    def from_files() -> dict[str, list[Finding]]:
        return {module.name: static_findings(Examination(view, module, None)) for module in modules}

    if live:
        try:
            php = view.ready(limit_seconds)
            # what runs in other processes, while the files are read here
            with letting_go():
                calling = Meanwhile(lambda: _ask_pages(view, php, modules, {}, limit_seconds))
                booting = Meanwhile(lambda: ask_host(view, limit_seconds, **_questions(modules)))
                compiling = Meanwhile(lambda: compile_all(view, php, modules, limit_seconds))
                try:
                    ahead = findings_ahead(kept_by, [module.name for module in modules], view.data.rules, from_files)
                    compiled = compiling.result()
                    asked = booting.result()
                    requests = calling.result()
                finally:  # what one of them has started is ended by itself
                    for begun in (calling, booting, compiling):
                        begun.wait()
            if asked.left_out:
                requests = _ask_pages(view, php, modules, asked.left_out, limit_seconds)
            for name, told in _told_inside(modules, asked).items():
                requests.setdefault(name, []).extend(told)
            result.notes += [
                f"{name} breaks the host as it stands; the others were checked without it" for name in asked.left_out
            ]
        except HostFailed as error:
            asked = None
            result.failure, result.failure_remedy = error.sentence, error.remedy
            if view.php is not None and compiled is None:
                compiled = compile_all(view, view.php, modules, limit_seconds)
    result.host_findings = list(_host_findings(view, asked))
    for module in modules:
        one = Examination(view, module, asked, requests.get(module.name), compiled)
        result.modules.append(_judge(one, result.failure, ahead.get(module.name)))
    return result, asked


def static_findings(exam: Examination) -> list[Finding]:
    """Return what the files of a module alone tell, apart from what a compiler says of them."""
    return [finding for rule in STATIC for finding in rule(exam)]


def _judge(exam: Examination, failure: str, ahead: list[Finding] | None) -> ModuleCheck:
    findings = static_findings(exam) if ahead is None else list(ahead)
    findings += syntax(exam)
    if exam.asked is not None:
        findings += [finding for rule in LIVE for finding in rule(exam)]
    good = [request for request in exam.requests if request.answer.status == 200]
    times = [(request.path, request.answer.seconds) for request in good]
    return judged(exam.module.name, exam.module.title, findings, evidence(exam), failure, times)


def compile_all(view: HostView, php: Php, modules: Sequence[ModuleFiles], limit_seconds: float) -> Compiled | None:
    """Compile every file of the modules in one PHP process; returns those that do not compile.

    None for a PHP that cannot compile without running, for it lacks its cache of code.
    """
    files = [str(path) for module in modules for path in module.paths]
    told = tell(php, "compile.php", view.root, {"files": files}, limit_seconds)
    if not told.answers.get("compiled"):
        return None
    return {file: (line, message) for file, (line, message) in (told.answers.get("wrong") or {}).items()}


def _questions(modules: Sequence[ModuleFiles]) -> dict[str, object]:
    """Return what the loaded host is asked for the modules."""
    own = [module for module in modules if not module.single and (module.place / "sprout.toml").is_file()]
    return {
        "namespaces": {module.name: module.said_namespace for module in own},
        "places": [str(module.place) for module in modules],
    }


def _ask_pages(
    view: HostView, php: Php, modules: Sequence[ModuleFiles], left_out: Mapping[str, Fatal], limit_seconds: float
) -> dict[str, list[Request]]:
    """Ask for the pages of modules that are on: as visitor, and as administrator where visitors may not see them.

    PHP's own server works on one request at a time: of many modules, a second one has half.
    """
    wanted = {
        module.name: addresses
        for module in modules
        if view.is_on(module) and module.name not in left_out and (addresses := _addresses(module))
    }
    without = [module.key for module in view.modules if module.name in left_out]

    def ask(names: Sequence[str]) -> dict[str, list[Request]]:
        return _ask_some(view, php, {name: wanted[name] for name in names}, without, limit_seconds)

    names = list(wanted)
    if len(names) < MANY_MODULES:
        return ask(names)
    other = Meanwhile(lambda: ask(names[1::2]))
    return ask(names[::2]) | other.result()


def _ask_some(
    view: HostView,
    php: Php,
    wanted: Mapping[str, list[tuple[str, bool]]],
    without: Sequence[str],
    limit_seconds: float,
) -> dict[str, list[Request]]:
    found: dict[str, list[Request]] = {name: [] for name in wanted}
    if not found:
        return found
    with Pages(view, php, limit_seconds, without) as pages:
        for name, addresses in wanted.items():
            for path, exact in addresses:
                found[name].append(Request("page", path, "visitor", pages.get(path), exact))
                if _turned_away(found[name][-1]):
                    found[name].append(Request("page", path, "administrator", pages.get(path, (EVERYTHING,)), exact))
    return found


def _turned_away(request: Request) -> bool:
    answer = request.answer
    signing_in = answer.status in (301, 302) and "wp-login.php" in answer.headers.get("location", "")
    return answer.status in (401, 403) or signing_in


def _addresses(module: ModuleFiles) -> list[tuple[str, bool]]:
    """Return the addresses that are asked for of a module, and whether nothing of each was made up."""
    found: list[tuple[str, bool]] = []
    for page in pages_of(module):
        if page.path:
            found.append((page.path, True))
        elif (made := _made_up(page.rule)) and "/" in made.strip("/"):
            found.append((made, False))
    return list(dict.fromkeys(found))


def _told_inside(modules: Sequence[ModuleFiles], asked: AskedHost) -> dict[str, list[Request]]:
    """Return endpoints and screens as requests, which the loaded host called by itself."""
    found: dict[str, list[Request]] = {}
    files = {route["route"]: route["answers"]["file"] for route in asked.boot.answers.get("rest") or []}
    for told in asked.boot.answers.get("calls") or []:
        request = Request("endpoint", f"/wp-json{told['0']}", told["1"], _page(told), True)
        found.setdefault(files.get(told["0"], ""), []).append(request)
    for slug, told in (asked.boot.answers.get("screen") or {}).items():
        base = told["parent"] if str(told["parent"]).endswith(".php") else "admin.php"
        request = Request("screen", f"/wp-admin/{base}?page={slug}", "administrator", _page(told), True)
        found.setdefault(told["file"], []).append(request)
    return {
        module.name: [
            request
            for file, requests in found.items()
            if file == str(module.place) or file.startswith(f"{module.place}/")
            for request in requests
        ]
        for module in modules
    }


def _page(told: Mapping[str, Any]) -> Page:
    fatal = Fatal(*told["fatal"]) if told.get("fatal") else None
    ended = "it ends the request before it is drawn" if told.get("ended") else ""
    body = str(told.get("said", ""))
    return Page(int(told.get("status", 0)), {}, body, float(told.get("seconds", 0)), [], True, [], fatal, ended)


def _made_up(rule: str) -> str:
    """Return an address that a rule with changing parts matches, with 1 in their places; empty when not sure."""
    text = re.sub(r"/\?\$$", "", rule.lstrip("^"))
    text = re.sub(r"\((\[0-9\]|\\d|\[\^/\]|\[a-z0-9-\])[+*]?(\{\d+\})?\)", "1", text).replace("\\", "")
    return "" if re.search(r"[()\[\]*+?{|^$]", text) else f"/{text.strip('/')}/"


def _host_findings(view: HostView, asked: AskedHost | None) -> list[Finding]:
    """Return findings that belong to no module: those of the host that make every page fail."""
    if asked is None:
        return []
    rules = view.data.rules
    found = []
    host = asked.boot.answers.get("host") or {}
    if host and not host["theme_here"]:
        found.append(
            rules.finding("served.no-theme", "the host", f"wp-content/themes/{host['theme']}", theme=host["theme"])
        )
    keys = {module.key for module in view.modules}
    folders = {module.name for module in view.modules}
    for key in (view.state or {}).get("active", []):
        if key not in keys and key.partition("/")[0] not in folders:
            found.append(rules.finding("found.gone", key.partition("/")[0], f"wp-content/plugins/{key}"))
    return found
