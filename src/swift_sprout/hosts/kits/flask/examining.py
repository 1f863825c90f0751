"""Examining the modules of a Flask site: what the files say, and what the running application answered."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.findings import of_another
from ....core.ladder import Rung, State
from ....core.nearest import nearest
from ....running.cores import Meanwhile, letting_go
from ...shared.judging import judged
from .asking import ask, place_of, said
from .patterns import BY_NAME, from_files
from .reading import SiteFiles, name_of

if TYPE_CHECKING:
    from ....core.findings import Finding
    from ....core.results import ModuleCheck, SetupCheck
    from .host import FlaskHost

NOT_APPLICABLE = {
    Rung.COMPATIBLE: "Flask knows no needs of modules",
    Rung.PERMITTED: "Flask has no users of its own",
    Rung.PLACED: "Flask has no menus and no places for blocks",
}


def judge(host: FlaskHost, modules: Sequence[str], live: bool, result: SetupCheck) -> Iterator[ModuleCheck]:
    """Yield the check of each module; the application is started once for all."""
    files = SiteFiles(host)
    asking = Meanwhile(lambda: ask(host, modules, result)) if live else None
    try:
        with letting_go():  # what needs the files alone, while the application starts and answers
            told = {name: list(_static(host, files, name)) for name in modules}
            result.host_findings = list(_absent(host, files))
    finally:
        if asking is not None:
            asking.wait()
    answers, stopped = asking.result() if asking is not None else ({}, {})
    result.host_findings += _stops(host, answers, stopped, result)
    for name in modules:
        yield _judge_one(host, files, name, told[name], answers, stopped, live, result)


def _stops(
    host: FlaskHost, answers: dict[str, Any], stopped: dict[str, dict[str, Any]], result: SetupCheck
) -> Iterator[Finding]:
    """Why the application as a whole does not start; where modules had to be left out, it may be for that."""
    error = (answers.get("failures") or {}).get("application") if result.failure else None
    if error is not None:
        file, line = place_of(host, error, ("wsgi.py", 0))
        finding = host.finding("enabled.site-stops", "", file, line, reason=said(error))
        yield finding._replace(follows_from=of_another("enabled.import-failed", next(iter(stopped))) if stopped else "")


def _absent(host: FlaskHost, files: SiteFiles) -> Iterator[Finding]:
    """Packages that the factory imports a blueprint from and that are not there."""
    factory = files.factory
    registered = {package for package, *_ in factory.registered} if factory is not None else set()
    for package, line in factory.imports.values() if factory is not None else ():
        there = (host.root / package.replace(".", "/")).is_dir() or (host.root / f"{package}.py").is_file()
        if package in registered and not there and "." not in package and factory is not None:
            file = host.relative(factory.path)
            yield host.finding("found.absent", package, file, line, near=host.nearest_module(package))


def _judge_one(
    host: FlaskHost,
    files: SiteFiles,
    name: str,
    told: Sequence[Finding],
    answers: dict[str, Any],
    stopped: dict[str, dict[str, Any]],
    live: bool,
    result: SetupCheck,
) -> ModuleCheck:
    """Judge one module; ``told`` are the findings that its files alone give."""
    state = files.modules[name]
    #  an application that was started, or does not start, is no matter of what files cannot tell
    findings = [finding for finding in told if not answers or finding.code != "registered.unsure"]
    seen: dict[Rung, tuple[State, str]] = {rung: (State.NOT_APPLICABLE, why) for rung, why in NOT_APPLICABLE.items()}
    seen[Rung.FOUND] = State.PASS, state.folder
    made = files.made_in(name)
    seen[Rung.DESCRIBED] = State.PASS, f"{host.relative(made[0].path)} makes a blueprint" if made else "as it registers"
    if state.registered:
        seen[Rung.REGISTERED] = State.PASS, "the factory registers it"
    if not (host.root / name / "schema.sql").is_file():
        seen[Rung.INSTALLED] = State.NOT_APPLICABLE, "it has no tables"
    asked: list[tuple[str, float]] = []
    if name in stopped:
        error = stopped[name]
        file, line = place_of(host, error, (f"{name}/__init__.py", 0))
        findings.append(host.finding("enabled.import-failed", name, file, line, reason=said(error)))
    elif live and "blueprints" in answers:
        findings = [finding for finding in findings if not _refuted(host, finding, answers)]
        findings += _live(host, files, name, answers, seen, asked)
    return judged(name, state.title, findings, seen, result.failure, asked)


#  what files say of registering, which an application that has the blueprint knows better
_BY_REGISTRY = frozenset(
    {
        "described.no-blueprint",
        "registered.not-registered",
        "registered.twice",
        "registered.after-return",
    }
)


#  what would keep an application from starting, or what one that runs tells by itself
_BY_START = frozenset(
    {
        "enabled.import-absent",
        "enabled.view-twice",
        "routed.converter-unknown",
        "routed.slash-absent",
        "routed.not-loaded",
        "routed.endpoint-absent",
        "routed.shadowed",
        "served.static-absent",
    }
)


def _refuted(host: FlaskHost, finding: Finding, answers: dict[str, Any]) -> bool:
    """True for a finding of files that the running application shows to be wrong."""
    if finding.code in _BY_REGISTRY or finding.code in _BY_START:
        return _is_there(finding.module, answers)
    if finding.code == "routed.no-views":
        views = host.root / finding.module / "views.py"
        return str(views.resolve()) in (answers.get("loaded") or ())
    if finding.code == "routed.taken":
        shadowed = answers.get("shadowed")
        return shadowed is not None and finding.value("path") not in {one["path"] for one in shadowed}
    if finding.code == "served.template-absent":
        return finding.value("template") in (answers.get("template_names") or ())
    return False


def _is_there(name: str, answers: dict[str, Any]) -> bool:
    """True where the running application has a blueprint of a module, or a view without one."""
    return name in answers["blueprints"].values() or any(one["module"] == name for one in answers.get("routes") or ())


def _static(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    for one in files.code(name):
        if one.error is not None:
            line = one.error.lineno or 0
            yield host.finding("described.syntax", name, host.relative(one.path), line, reason=one.error.msg)
    marker, made = files.marker(name), files.made_in(name)
    if made is not None:
        yield from _described(host, files, name, made[0].path, made[1])
    elif marker is not None and marker.error is None and not files.may_make_one(name):
        yield host.finding("described.no-blueprint", name, host.relative(marker.path), 1)
    factory = files.factory
    if factory is not None:
        own = [one for one in factory.registered if one[0].partition(".")[0] == name]
        file = host.relative(factory.path)
        line = factory.function.lineno if factory.function is not None else 0
        if not own and name not in factory.handed_to:
            unsure = factory.unsure or factory.function is None
            yield host.finding("registered.unsure" if unsure else "registered.not-registered", name, file, line)
        elif len(own) > 1 and len({package for package, *_ in own}) == 1 and len({one[3] for one in own}) == 1:
            yield host.finding("registered.twice", name, file, own[1][1])
        elif own and not own[0][2]:
            yield host.finding("registered.after-return", name, file, own[0][1])
    yield from _views(host, files, name)
    yield from from_files(host, files, name)


def _described(host: FlaskHost, files: SiteFiles, name: str, init: Path, call: ast.Call) -> Iterator[Finding]:
    said = name_of(call)
    others = [one for one in files.by_blueprint[said] if one != name] if said else []
    if others:
        yield host.finding("described.name-taken", name, host.relative(init), call.lineno, name=said, other=others[0])
    if (init.parent / "templates").is_dir() and not any(key.arg == "template_folder" for key in call.keywords):
        yield host.finding("described.no-templates", name, host.relative(init), call.lineno)


def _views(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    views = files.views(name)
    init = host.root / name / "__init__.py"
    text = init.read_text("utf-8", "replace") if init.is_file() else ""
    made = files.made_in(name)
    apart = made is None or made[0].path == init  # else the file that makes the blueprint is what is imported
    if (
        apart
        and not any(word in text for word in BY_NAME)
        and any(view.path.name == "views.py" for view in views)
        and not re.search(r"import\s+(\w+,\s*)*views\b|\.views\b", text)
    ):
        yield host.finding("routed.no-views", name, host.relative(init), 1)
    for view in views:
        for template, line in view.templates:
            if template not in files.templates:
                near = nearest(template, files.templates)
                said = f"; near is {near}" if near else ""
                values = {"view": view.name, "template": template, "near": said}
                yield host.finding("served.template-absent", name, host.relative(view.path), line, **values)
    yield from _taken(host, files, name)


def _taken(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """The first address of a module that another one declares as well."""
    for view in files.views(name) if name in files.prefixes else ():
        for rule in view.rules:
            path = files.prefixes[name] + rule
            other = next((one for one in files.by_address[path] if one != name), None)
            if other is not None:
                yield host.finding("routed.taken", name, host.relative(view.path), view.line, path=path, other=other)
                return


def _live(
    host: FlaskHost,
    files: SiteFiles,
    name: str,
    answers: dict[str, Any],
    seen: dict[Rung, tuple[State, str]],
    asked: list[tuple[str, float]],
) -> Iterator[Finding]:
    names = [blueprint for blueprint, package in answers["blueprints"].items() if package == name]
    factory = files.factory
    if not _is_there(name, answers):
        file = host.relative(factory.path) if factory is not None else "wsgi.py"
        line = (
            next((one[1] for one in factory.registered if one[0].partition(".")[0] == name), 0)
            if factory is not None
            else 0
        )
        off = factory is not None and name in factory.conditional
        yield host.finding("registered.conditionally" if off else "enabled.not-there", name, file, line)
        return
    what = f"blueprint {names[0]}" if names else "its views, without a blueprint"
    seen[Rung.ENABLED] = State.PASS, f"{what} in the running application"
    yield from _unloaded(host, files, name, answers)
    yield from _shadowed(host, name, answers)
    yield from _templates_wrong(host, name, answers)
    yield from _blocking(host, name, answers)
    yield from _tables(host, name, answers, seen)
    routes = [route for route in answers.get("routes") or () if route["module"] == name]
    if routes:
        seen[Rung.ROUTED] = State.PASS, f"{len(routes)} addresses, e.g. {routes[0]['path']}"
    else:
        seen[Rung.ROUTED] = State.NOT_APPLICABLE, "it has no address"
    views = {view.name: view for view in files.views(name)}
    pages = [page for page in answers.get("pages") or () if page["module"] == name]
    marks = "data-module" in _layout(host.root / name)
    for page in pages:
        view = views.get(page["view"].rpartition(".")[2])
        place = (host.relative(view.path), view.line) if view is not None else (f"{name}/__init__.py", 0)
        values = {"path": page["path"], "status": page["status"]}
        if page["status"] in (0, 500) or (page["status"] > 500 and page["error"]):  # others it means so itself
            error = page["error"]
            file, line = place_of(host, error, place) if error else place
            reason = said(error) if error else f"status {page['status']}"
            yield host.finding("served.error", name, file, line, reason=reason, **values)
        elif page["empty"] and page["status"] == 200 and view is not None and view.templates:
            yield host.finding("served.empty", name, *place, **values)
        elif marks and page["status"] == 200 and view is not None and view.templates and not page["marked"]:
            yield host.finding("served.unmarked", name, *place, **values)
        else:
            asked.append((page["path"], page["seconds"]))
    if asked:
        seen[Rung.SERVED] = State.PASS, f"{len(asked)} pages, e.g. {asked[0][0]}"
    elif not pages:
        seen[Rung.SERVED] = (
            State.NOT_APPLICABLE,
            "no page can be called without a record that stands for its parameters",
        )


def _unloaded(host: FlaskHost, files: SiteFiles, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    if "loaded" not in answers:
        return
    made = files.made_in(name)
    marker = host.relative(made[0].path) if made is not None else f"{name}/__init__.py"
    for path, line, what in files.unloaded(name, frozenset(answers["loaded"])):
        yield host.finding("routed.not-loaded", name, host.relative(path), line, what=what, marker=marker)


def _shadowed(host: FlaskHost, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    for one in answers.get("shadowed") or ():
        if one["module"] == name:
            other = one["other"]
            place = f"{host.relative(Path(other['file']))}:{other['line']}" if other["file"] else ""
            values = {"path": one["path"], "view": one["view"], "other": one["answers"], "other_place": place}
            yield host.finding("routed.shadowed", name, host.relative(Path(one["file"])), one["line"], **values)


_WRONG = {
    "syntax": "served.template-broken",
    "template": "served.template-broken",
    "endpoint": "routed.endpoint-absent",
    "static": "served.static-absent",
}


def _templates_wrong(host: FlaskHost, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    endpoints = [route["view"] for route in answers.get("routes") or ()]
    for one in answers.get("templates") or ():
        if one["module"] == name:
            known = endpoints if one["wrong"] == "endpoint" else _static_files(host, name)
            match = nearest(one["what"], known) if one["wrong"] in ("endpoint", "static") else None
            what = f"it names {one['what']}, which is not there" if one["wrong"] == "template" else one["what"]
            values = {"what": what, "near": f"; near is {match}" if match else ""}
            yield host.finding(_WRONG[one["wrong"]], name, host.relative(Path(one["file"])), one["line"], **values)


def _static_files(host: FlaskHost, name: str) -> list[str]:
    folder = host.root / name / "static"
    return [path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file()]


def _blocking(host: FlaskHost, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    """A function that is called before each request of the site and answers in the place of others' pages."""
    for page in answers.get("pages") or ():
        by = page.get("stopped_by")
        if by is not None and by["module"] == name and page["module"] != name and page["status"] >= 400:
            values = {"function": by["name"], "status": page["status"]}
            yield host.finding("permitted.blocks-others", name, host.relative(Path(by["file"])), by["line"], **values)
            return


def _layout(folder: Path) -> str:
    path = folder / "templates" / folder.name / "layout.html"
    return path.read_text("utf-8", "replace") if path.is_file() else ""


def _tables(
    host: FlaskHost, name: str, answers: dict[str, Any], seen: dict[Rung, tuple[State, str]]
) -> Iterator[Finding]:
    path = host.root / name / "schema.sql"
    if not path.is_file():
        return
    text = path.read_text("utf-8", "replace")
    there = answers.get("tables") or {}
    wanted = re.findall(r'create table if not exists "?(\w+)"? \((.*?)\n\);', text, re.DOTALL)
    for table, body in wanted:
        line = text[: text.index(table)].count("\n") + 1
        if table not in there:
            yield host.finding("installed.table-absent", name, host.relative(path), line, table=table)
            continue
        for column in re.findall(r'^\s+"(\w+)"', body, re.MULTILINE):
            if column not in there[table]["columns"]:
                at = line + body[: body.index(f'"{column}"')].count("\n")
                yield host.finding("installed.column-absent", name, host.relative(path), at, table=table, column=column)
    seen[Rung.INSTALLED] = State.PASS, f"{len(wanted)} tables"
