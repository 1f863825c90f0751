"""Examining the modules of a Flask site: what the files say, and what the running application answered."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.ladder import Rung, State
from ....core.nearest import nearest
from ....running.cores import Meanwhile, letting_go
from ...shared.judging import judged
from .asking import ask, place_of, said
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
    for name in modules:
        yield _judge_one(host, files, name, told[name], answers, stopped, live, result)


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
    findings = list(told)
    seen: dict[Rung, tuple[State, str]] = {rung: (State.NOT_APPLICABLE, why) for rung, why in NOT_APPLICABLE.items()}
    seen[Rung.FOUND] = State.PASS, state.folder
    seen[Rung.DESCRIBED] = State.PASS, f"{name}/__init__.py makes a blueprint"
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
        findings += _live(host, files, name, answers, seen, asked)
    return judged(name, state.title, findings, seen, result.failure, asked)


def _static(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    for one in files.code(name):
        if one.error is not None:
            line = one.error.lineno or 0
            yield host.finding("described.syntax", name, host.relative(one.path), line, reason=one.error.msg)
    marker, blueprint = files.marker(name), files.blueprint(name)
    if marker is not None and blueprint is not None:
        yield from _described(host, files, name, marker.path, blueprint)
    elif marker is not None and marker.error is None:
        yield host.finding("described.no-blueprint", name, host.relative(marker.path), 1)
    factory = files.factory
    if factory is not None:
        own = [one for one in factory.registered if one[0] == name]
        file = host.relative(factory.path)
        if not own:
            yield host.finding(
                "registered.not-registered", name, file, factory.function.lineno if factory.function else 0
            )
        elif len(own) > 1:
            yield host.finding("registered.twice", name, file, own[1][1])
        elif not own[0][2]:
            yield host.finding("registered.after-return", name, file, own[0][1])
    yield from _views(host, files, name)


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
    if any(view.path.name == "views.py" for view in views) and not re.search(
        r"import\s+(\w+,\s*)*views\b|\.views\b", text
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
    if not names:
        file = host.relative(factory.path) if factory is not None else "wsgi.py"
        line = next((one[1] for one in factory.registered if one[0] == name), 0) if factory is not None else 0
        yield host.finding("enabled.not-there", name, file, line)
        return
    seen[Rung.ENABLED] = State.PASS, f"blueprint {names[0]} in the running application"
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
        if page["status"] >= 500 or page["status"] == 0:
            error = page["error"]
            file, line = place_of(host, error, place) if error else place
            reason = said(error) if error else f"status {page['status']}"
            yield host.finding("served.error", name, file, line, reason=reason, **values)
        elif page["empty"]:
            yield host.finding("served.empty", name, *place, **values)
        elif marks and "html" in page["type"] and not page["marked"]:
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
