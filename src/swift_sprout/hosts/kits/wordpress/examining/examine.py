"""Examining modules: rules and evidence put together into ladders and findings."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from .....core.errors import HostFailed
from .....core.results import ModuleCheck, SetupCheck
from .....running.cores import Meanwhile, letting_go
from ....shared.judging import findings_ahead, judged
from ..asking import AskedHost, ask_as_holders, ask_both
from ..php import Php, tell
from ..reading.asked import names_asked
from .across import NOT_A_MODULE, relate
from .evidence import evidence
from .examination import Compiled, Examination, Request
from .requests import ask_around, ask_carried, ask_pages, told_inside
from .rules import LIVE, STATIC
from .rules.code import syntax

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ....shared.judging import Kept
    from ..reading.modules import ModuleFiles
    from ..view import HostView


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
    beside_it = frozenset(module.name for module in modules)
    result = SetupCheck("real", live, view.version)
    compiled: Compiled | None = None
    asked: AskedHost | None = None
    requests: dict[str, list[Request]] = {}
    around: list[Request] = []
    ahead: dict[str, list[Finding]] = {}

    def from_files() -> dict[str, list[Finding]]:
        return {module.name: static_findings(Examination(view, module, None, beside=beside_it)) for module in modules}

    if live:
        try:
            php = view.ready(limit_seconds)
            # what runs in other processes, while the files are read here
            with letting_go():
                calling = Meanwhile(lambda: ask_pages(view, php, modules, {}, limit_seconds))
                booting = Meanwhile(
                    lambda: ask_both(view, limit_seconds, **_questions(modules), **names_asked(modules, view.modules))
                )
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
                requests = ask_pages(view, php, modules, asked.left_out, limit_seconds)
            told_by = asked
            beside = Meanwhile(lambda: ask_around(view, php, told_by, limit_seconds))
            holding = Meanwhile(lambda: ask_as_holders(view, told_by, limit_seconds, **_questions(modules)))
            carried = ask_carried(view, php, modules, asked, limit_seconds)
            around = beside.result()
            asked = holding.result()
            for name, told in (*carried.items(), *told_inside(modules, asked).items()):
                requests.setdefault(name, []).extend(told)
            result.notes += [
                f"{name} breaks the host as it stands; the others were checked without it" for name in asked.left_out
            ]
        except HostFailed as error:
            asked = None
            result.failure, result.failure_remedy = error.sentence, error.remedy
            if view.php is not None and compiled is None:
                compiled = compile_all(view, view.php, modules, limit_seconds)
    result.host_findings = list(_host_findings(view, modules, asked))
    areas = _areas_drawn([*around, *(request for one in requests.values() for request in one)])
    for module in modules:
        one = Examination(view, module, asked, requests.get(module.name), compiled, around, beside_it, areas)
        result.modules.append(_judge(one, result.failure, ahead.get(module.name)))
    relate(result.modules, result.host_findings)
    return result, asked


def _areas_drawn(requests: Sequence[Request]) -> frozenset[str] | None:
    """Return the theme's areas for widgets that pages drew; None where no page of the site came to its end."""
    drawn = [one.answer.areas for one in requests if one.sort in ("page", "around") and one.answer.footer]
    return frozenset().union(*drawn) if drawn else None


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


#  calls whose work cannot be taken back, or that wait for somebody outside
_REACHES_OUT = re.compile(
    rb"(?<![>:\w$])\\?(exec|shell_exec|system|passthru|proc_open|popen|pcntl_\w+|posix_kill|dl|mail|sleep|usleep|tempnam"
    rb"|symlink|link|curl_(?:multi_)?exec|p?fsockopen|stream_socket_\w+|socket_\w+|stream_wrapper_\w+|ftp_\w+|ssh2_\w+"
    rb"|imap_\w+|mysqli?_\w+|pg_\w+|wpmu_\w+|activate_plugins?|delete_plugins|delete_theme"
    rb"|session_\w+|gz(?:open|file)|bzopen|syslog|mb_send_mail|dba_\w+)\s*\("
    rb"|\bnew\s+\\?(wpdb|mysqli|PDO|SQLite3|ZipArchive|Phar\w*|Memcached?|Redis|Imagick|PclZip|SoapClient"
    rb"|WP_Upgrader|\w*_Upgrader)\b"
    rb"|->\s*dbh\b"
)


def _reaches_out(module: ModuleFiles) -> bool:
    """True where a module's code may reach what nothing of ours stands before; what it does is not tried."""
    return any(_REACHES_OUT.search(held) for held in module.contents.values())


def _questions(modules: Sequence[ModuleFiles]) -> dict[str, object]:
    """Return what the loaded host is asked for the modules."""
    own = [module for module in modules if not module.single and (module.place / "sprout.toml").is_file()]
    return {
        "namespaces": {module.name: module.said_namespace for module in own},
        "places": [str(module.place) for module in modules],
        "harmless": [str(module.place) for module in modules if not module.single and not _reaches_out(module)],
    }


def _host_findings(view: HostView, modules: Sequence[ModuleFiles], asked: AskedHost | None) -> list[Finding]:
    """Return findings that belong to no module: those of the host that make every page fail."""
    if asked is None:
        return []
    rules = view.data.rules
    found = []
    if asked.administration_failure:
        found.append(
            rules.finding("served.no-administration", "the host", "wp-admin", reason=asked.administration_failure)
        )
    for boot in asked.boots:
        for step, reason, file, line in boot.untold:
            owner = next((one.name for one in view.modules if one.place in Path(file).parents), "the host")
            theirs = owner != "the host" or "wp-content" in Path(file).parts
            place = view.relative(Path(file)) if theirs else NOT_A_MODULE
            found.append(rules.finding("served.not-told", owner, place, line, step=step, reason=reason, place=place))
    for one in view.modules:
        broke = {**asked.left_out_there, **asked.left_out}.get(one.name)
        if broke is not None and one not in modules:  # it was not asked about, and no page is served with it
            code = "registered.breaks-host" if one.name in asked.left_out else "registered.breaks-administration"
            place = view.relative(Path(broke.file)) if broke.file else view.relative(one.main or one.place)
            found.append(rules.finding(code, one.name, place, broke.line, reason=broke.said, at="", place=place))
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
