"""Examining modules: rules and evidence put together into ladders and findings."""

from __future__ import annotations

import re
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.results import ModuleCheck, SetupCheck
from ...judging import judged
from ..asking import EVERYTHING, Asked, Pages, ask_host
from ..php import Php, tell
from ..reading.routes import pages_of, rest_routes_of
from .evidence import evidence
from .examination import Examination, Request
from .rules import LIVE, STATIC

if TYPE_CHECKING:
    from ....core.findings import Finding
    from ..reading.modules import ModuleFiles
    from ..view import HostView


def examine(view: HostView, modules: Sequence[ModuleFiles], live: bool, limit_seconds: float) -> SetupCheck:
    """Check modules of a host, from its files alone or with the running host asked once for all of them."""
    if live:
        return examine_with_answers(view, modules, limit_seconds)[0]
    return _examine(view, modules, False, limit_seconds)[0]


def examine_with_answers(
    view: HostView, modules: Sequence[ModuleFiles], limit_seconds: float
) -> tuple[SetupCheck, Asked | None]:
    """Check modules with the running host, and return what it told as well; None when it did not run."""
    return _examine(view, modules, True, limit_seconds)


def _examine(
    view: HostView, modules: Sequence[ModuleFiles], live: bool, limit_seconds: float
) -> tuple[SetupCheck, Asked | None]:
    result = SetupCheck("real", live, view.version)
    compiled: dict[str, tuple[int, str]] = {}
    asked: Asked | None = None
    requests: dict[str, list[Request]] = {}
    if live:
        try:
            php = view.ready(limit_seconds)
            with ThreadPoolExecutor(1) as pool:
                compiling = pool.submit(compile_all, view, php, modules, limit_seconds)
                asked = ask_host(view, limit_seconds, **_questions(view, modules))
                compiled = compiling.result()
            requests = _ask_pages(view, php, modules, asked, limit_seconds)
            result.notes += [
                f"{name} breaks the host as it stands; the others were checked without it" for name in asked.left_out
            ]
        except HostFailed as error:
            result.failure, result.failure_remedy = error.sentence, error.remedy
            if view.php is not None and not compiled:
                compiled = compile_all(view, view.php, modules, limit_seconds)
    result.host_findings = list(_host_findings(view, asked))
    for module in modules:
        one = Examination(view, module, asked, requests.get(module.name), compiled)
        result.modules.append(_judge(one, result.failure))
    return result, asked


def _judge(one: Examination, failure: str) -> ModuleCheck:
    findings: list[Finding] = [finding for rule in STATIC for finding in rule(one)]
    if one.asked is not None:
        findings += [finding for rule in LIVE for finding in rule(one)]
    good = [request for request in one.requests if request.answer.status == 200]
    times = [(request.path, request.answer.seconds) for request in good]
    return judged(one.module.name, one.module.title, findings, evidence(one), failure, times)


def compile_all(
    view: HostView, php: Php, modules: Sequence[ModuleFiles], limit_seconds: float
) -> dict[str, tuple[int, str]]:
    """Compile every file of the modules in one PHP process; returns line and reason of those that do not compile."""
    files = [str(path) for module in modules for path in module.paths]
    told = tell(php, "compile.php", view.root, {"files": files}, limit_seconds)
    return {file: (line, message) for file, (line, message) in (told.answers.get("wrong") or {}).items()}


def _questions(view: HostView, modules: Sequence[ModuleFiles]) -> dict[str, object]:
    """Return what the loaded host is asked for the modules."""
    own = [module for module in modules if not module.single and (module.place / "sprout.toml").is_file()]
    return {
        "namespaces": {module.name: module.namespace for module in own},
        "paths": [page.path for module in modules for page in pages_of(module) if page.path],
    }


def _ask_pages(
    view: HostView, php: Php, modules: Sequence[ModuleFiles], asked: Asked, limit_seconds: float
) -> dict[str, list[Request]]:
    """Ask for the addresses of the modules that are on: as visitor, and as administrator where visitors may not."""
    wanted = {
        module.name: _addresses(module, asked)
        for module in modules
        if view.is_on(module) and module.name not in asked.left_out
    }
    found: dict[str, list[Request]] = {name: [] for name in wanted}
    if not any(wanted.values()):
        return found
    keys = {module.name: module.key for module in view.modules}
    with Pages(view, php, limit_seconds, [keys[name] for name in asked.left_out]) as pages:
        for name, addresses in wanted.items():
            for sort, path, exact in addresses:
                if sort != "screen":
                    found[name].append(Request(sort, path, "visitor", pages.get(path), exact))
                if sort == "screen" or _turned_away(found[name][-1]):
                    answer = pages.get(path, (EVERYTHING,))
                    found[name].append(Request(sort, path, "administrator", answer, exact))
    return found


def _turned_away(request: Request) -> bool:
    answer = request.answer
    return answer.status in (401, 403) or (
        answer.status in (301, 302) and "wp-login.php" in answer.headers.get("location", "")
    )


def _addresses(module: ModuleFiles, asked: Asked) -> list[tuple[str, str, bool]]:
    """Return what is asked for of a module: sort, address, and whether nothing of it was made up."""
    found: list[tuple[str, str, bool]] = []
    for page in pages_of(module):
        if page.path:
            found.append(("page", page.path, True))
        elif (made := _made_up(page.rule)) and "/" in made.strip("/"):
            found.append(("page", made, False))
    for route in rest_routes_of(module):
        if (
            route.space
            and route.path
            and "(" not in route.path
            and any("GET" in methods or "READABLE" in methods for methods, _, _ in route.handlers)
        ):
            found.append(("endpoint", f"/wp-json{route.address}", True))
    for entry in asked.boot.answers.get("menu") or []:
        own = entry["file"] and (str(module.place) == entry["file"] or entry["file"].startswith(f"{module.place}/"))
        if own and re.fullmatch(r"[\w-]+", entry["slug"]):
            base = entry["parent"] if str(entry["parent"]).endswith(".php") else "admin.php"
            found.append(("screen", f"/wp-admin/{base}?page={entry['slug']}", True))
    return list(dict.fromkeys(found))


def _made_up(rule: str) -> str:
    """Return an address that a rule with changing parts matches, with 1 in their places; empty when not sure."""
    text = re.sub(r"/\?\$$", "", rule.lstrip("^"))
    text = re.sub(r"\((\[0-9\]|\\d|\[\^/\]|\[a-z0-9-\])[+*]?(\{\d+\})?\)", "1", text).replace("\\", "")
    return "" if re.search(r"[()\[\]*+?{|^$]", text) else f"/{text.strip('/')}/"


def _host_findings(view: HostView, asked: Asked | None) -> list[Finding]:
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
