"""Examining the modules of a Flask site: what the files say, and what the running application answered."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.findings import of_another
from ....core.ladder import Rung, State
from ....core.nearest import near_text, nearest, said_near
from ....core.plurals import number_of
from ....disk.walking import written_files
from ....running.cores import Meanwhile, letting_go
from ...python.code_errors import is_of_code
from ...shared.judging import judged
from .asking import ask, place_of, place_of_view, said
from .entry import broken_entry, dotted_of, entries_said, file_of, source_roots
from .forms import forms, package_names
from .patterns import from_files
from .reading import SiteFiles, imports_by_name, name_of
from .tables import DATABASES, absences, of_nobody, of_the_database, tables

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
            result.host_findings = [*_broken_entry(host), *_entry_absent(host), *_absent(host, files)]
    finally:
        if asking is not None:
            asking.wait()
    answers, stopped = asking.result() if asking is not None else ({}, {})
    result.host_findings += _stops(host, answers, stopped, result)
    result.host_findings += [
        *of_nobody(host, answers),
        *_templates_wrong(host, "", answers),
        *_host_pages(host, answers),
    ]
    checks = [_judge_one(host, files, name, told[name], answers, stopped, live, result) for name in modules]
    owners = answers.get("blueprints") or {}
    broken = {one.module: one.findings[0].code for one in checks if one.findings}
    causes = {name: code for name, code in broken.items() if code != "served.error"}
    result.host_findings = [
        _of_the_linked(_of_the_unlinked(one, files, causes), files, owners, causes) for one in result.host_findings
    ]
    first_at = _told_at(host, checks, result.host_findings)
    absent = absences([*result.host_findings, *(finding for one in checks for finding in one.findings)])
    result.host_findings = [of_the_database(one, absent) for one in result.host_findings]
    for one in checks:
        findings = [_of_the_linked(finding, files, owners, broken) for finding in one.findings]
        findings = [of_the_database(_of_the_file(finding, first_at), absent) for finding in findings]
        yield one._replace(findings=findings)


_UNBUILT = re.compile(r"Could not build url for endpoint '(\w+)\.")


def _of_the_linked(finding: Finding, files: SiteFiles, owners: dict[str, str], broken: dict[str, str]) -> Finding:
    """Return a page that breaks on a link to another module's view as what follows from the fault of that one."""
    of_page = finding.code in ("served.error", "served.host-page") and not finding.follows_from
    named = _UNBUILT.search(finding.cause) if of_page else None
    space = named.group(1) if named is not None else ""
    owner = owners.get(space) or next((one for one in files.by_blueprint.get(space, ()) if one in broken), "")
    if not owner or owner == finding.module or owner not in broken:
        return finding
    return finding._replace(follows_from=of_another(broken[owner], owner))


def _of_the_unlinked(finding: Finding, files: SiteFiles, broken: dict[str, str]) -> Finding:
    """Return a link of the site's own templates to a view of a module that is at fault as what follows from that."""
    space = finding.value("what").partition(".")[0] if finding.code == "routed.endpoint-absent" else ""
    owner = next((one for one in files.by_blueprint.get(space, ()) if one in broken), "")
    return finding._replace(follows_from=of_another(broken[owner], owner)) if owner else finding


def _told_at(
    host: FlaskHost, checks: Sequence[ModuleCheck], of_host: Sequence[Finding]
) -> dict[tuple[str, int], Finding]:
    """Return what is told of each line: by the module that the file belongs to, else by whoever tells of it first."""
    every = [*of_host, *(finding for check in checks for finding in check.findings)]
    told = [one for one in every if one.line and not one.follows_from]
    places = host.places.by_name
    own = [one for one in told if one.module in places and places[one.module].holds(host.root / one.file)]
    return {(one.file, one.line): one for one in (*reversed(told), *reversed(own))}


def _of_the_file(finding: Finding, told: dict[tuple[str, int], Finding]) -> Finding:
    """Return what breaks at a line of which another module tells already as what follows from that."""
    first = told.get((finding.file, finding.line))
    breaks = finding.code in ("served.error", "enabled.import-failed")
    if not breaks or finding.follows_from or first is None or first.module == finding.module:
        return finding
    return finding._replace(follows_from=of_another(first.code, first.about))


def _stops(
    host: FlaskHost, answers: dict[str, Any], stopped: dict[str, dict[str, Any]], result: SetupCheck
) -> Iterator[Finding]:
    """Why the application as a whole does not start; where modules had to be left out, it may be for that."""
    for step, broke in (answers.get("failures") or {}).items() if not result.failure else ():
        if step == DATABASES:
            continue  # told as what it is
        file, line = place_of(host, broke, ("", 0))
        owner = next((name for name, place in host.places.by_name.items() if place.holds(host.root / file)), "")
        values = {"step": step, "reason": said(broke), "place": f"{file}:{line}" if file else "what it says"}
        yield host.finding("served.not-told", owner, file or host.relative(host.entry_file), line, **values)
    error = (answers.get("failures") or {}).get("application") if result.failure else None
    if error is not None and all(one.code != "enabled.site-stops" for one in result.host_findings):  # told from files
        file, line = place_of(host, error, (host.relative(host.entry_file), 0))
        finding = host.finding("enabled.site-stops", "", file, line, reason=said(error))
        yield finding._replace(follows_from=of_another("enabled.import-failed", next(iter(stopped))) if stopped else "")


def _broken_entry(host: FlaskHost) -> Iterator[Finding]:
    """The file that servers load, where it cannot be parsed."""
    found = broken_entry(host.root, host.entry)
    if found is not None:
        file, error = found
        yield host.finding(
            "enabled.site-stops", "", host.relative(file), error.lineno or 0, reason=f"SyntaxError: {error.msg}"
        )


def _entry_absent(host: FlaskHost) -> Iterator[Finding]:
    """What the settings of the host's command name, where neither the site nor a package has it."""
    for settings, line, entry, file in entries_said(host.root):
        module = entry.partition(":")[0]
        installed = host.search.found is None or host.search.found.has(module.partition(".")[0])
        if file is None and "/" not in entry and not installed:
            there = [*host.root.glob("*.py"), *host.root.glob("*/__init__.py")]
            near = near_text(module, [dotted_of(host.root, one) for one in there])
            yield host.finding("enabled.entry-absent", "", host.relative(settings), line, entry=entry, near=near)


def _absent(host: FlaskHost, files: SiteFiles) -> Iterator[Finding]:
    """Packages that the factory imports a blueprint from and that are not there."""
    application = files.application
    registered = {one.package for one in application.registered} if application is not None else set()
    for package, line in application.imports.values() if application is not None else ():
        there = any((base / package).is_dir() for base in source_roots(host.root))
        if package in registered and not there and "." not in package and file_of(host.root, package) is None:
            assert application is not None
            file = host.relative(application.path)
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
    if not files.places.by_name[name].within("schema.sql"):
        seen[Rung.INSTALLED] = State.NOT_APPLICABLE, "it has no tables"
    asked: list[tuple[str, float]] = []
    if name in stopped:
        error = stopped[name]
        file, line = place_of(host, error, (host.relative(files.places.by_name[name].marker), 0))
        findings.append(host.finding("enabled.import-failed", name, file, line, reason=said(error)))
    elif live and "blueprints" in answers:
        findings = [finding for finding in findings if not _refuted(files, finding, answers)]
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


def _refuted(files: SiteFiles, finding: Finding, answers: dict[str, Any]) -> bool:
    """True for a finding of files that the running application shows to be wrong."""
    if finding.code in _BY_REGISTRY or finding.code in _BY_START:
        return _is_there(finding.module, answers)
    if finding.code == "routed.no-views":
        views = files.places.by_name[finding.module].folder / "views.py"
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
    application = files.application
    if application is not None:
        own = application.by_module.get(name, [])
        line = application.function.lineno if application.function is not None else 0
        if not own and name not in application.handed_to:
            unsure = application.unsure or bool(application.broken)
            code = "registered.unsure" if unsure else "registered.not-registered"
            last = application.registered[-1] if application.registered and not unsure else None
            path, line = (last.path, last.line) if last is not None else (application.path, line)
            yield host.finding(code, name, host.relative(path), line)
        elif len(own) > 1 and len({(one.package, one.prefix) for one in own}) == 1:
            yield host.finding("registered.twice", name, host.relative(own[1].path), own[1].line)
        elif own and not own[0].reached:
            yield host.finding("registered.after-return", name, host.relative(own[0].path), own[0].line)
    yield from _views(host, files, name)
    yield from from_files(host, files, name)


def _described(host: FlaskHost, files: SiteFiles, name: str, init: Path, call: ast.Call) -> Iterator[Finding]:
    said = name_of(call)
    others = [one for one in files.by_blueprint[said] if one != name] if said else []
    if others:
        yield host.finding("described.name-taken", name, host.relative(init), call.lineno, name=said, other=others[0])
    if files.places.by_name[name].within("templates") and not any(
        key.arg == "template_folder" for key in call.keywords
    ):
        yield host.finding("described.no-templates", name, host.relative(init), call.lineno)


def _views(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    views = files.views(name)
    init = files.places.by_name[name].marker
    text = init.read_text("utf-8", "replace") if init.is_file() else ""
    made = files.made_in(name)
    apart = made is None or made[0].path == init  # else the file that makes the blueprint is what is imported
    if (
        apart
        and not imports_by_name(text)
        and any(view.path.name == "views.py" for view in views)
        and not re.search(r"import\s+(\w+,\s*)*views\b|\.views\b", text)
    ):
        yield host.finding("routed.no-views", name, host.relative(init), 1)
    for view in views:
        for template, line in view.templates:
            if template not in files.templates:
                near = nearest(template, files.templates)
                said = said_near(near)
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
    place, application = files.places.by_name[name], files.application
    if not _is_there(name, answers):
        own = application.by_module.get(name, []) if application is not None else []
        path = own[0].path if own else application.path if application is not None else host.entry_file
        file, line = host.relative(path), own[0].line if own else 0
        off = any(one.conditional for one in own)
        yield host.finding("registered.conditionally" if off else "enabled.not-there", name, file, line)
        return
    what = f"blueprint {names[0]}" if names else "its views, without a blueprint"
    seen[Rung.ENABLED] = State.PASS, f"{what} in the running application"
    yield from _unloaded(host, files, name, answers)
    yield from _unregistered(host, name, answers)
    yield from _shadowed(host, name, answers)
    yield from _templates_wrong(host, name, answers)
    yield from _variables(host, name, answers)
    yield from _other_name(host, files, name, answers)
    yield from _blocking(host, name, answers)
    yield from tables(host, name, answers, seen)
    routes = [route for route in answers.get("routes") or () if route["module"] == name]
    if routes:
        seen[Rung.ROUTED] = State.PASS, f"{number_of(len(routes), 'address')}, e.g. {routes[0]['path']}"
    else:
        seen[Rung.ROUTED] = State.NOT_APPLICABLE, "it has no address"
    views = {view.name: view for view in files.views(name)}
    yield from forms(host, files, name, answers)
    yield from package_names(host, name, answers)
    pages = [page for page in answers.get("pages") or () if page["module"] == name and not _is_made_up(page)]
    marks = "data-module" in _layout(place.folder)
    for page in pages:
        view = views.get(page["view"].rpartition(".")[2])
        spot = (host.relative(view.path), view.line) if view is not None else place_of_view(host, page, place.marker)
        values = {"path": page["path"], "status": page["status"]}
        if page["status"] in (0, 500) or (page["status"] > 500 and page["error"]):  # others it means so itself
            error = page["error"]
            file, line = place_of(host, error, spot) if error else spot
            reason = said(error) if error else f"status {page['status']}"
            yield host.finding("served.error", name, file, line, reason=reason, **values)
        elif page["empty"] and page["status"] == 200 and view is not None and view.templates:
            yield host.finding("served.empty", name, *spot, **values)
        elif marks and page["status"] == 200 and view is not None and view.templates and not page["marked"]:
            yield host.finding("served.unmarked", name, *spot, **values)
        else:
            asked.append((page["path"], page["seconds"]))
    if asked:
        seen[Rung.SERVED] = State.PASS, f"{number_of(len(asked), 'page')}, e.g. {asked[0][0]}"
    elif not pages:
        seen[Rung.SERVED] = (
            State.NOT_APPLICABLE,
            "no page can be called without a record that stands for its parameters",
        )


def _is_made_up(page: dict[str, Any]) -> bool:
    """True for a page that says no more than that what stands in its address is made up."""
    if not page.get("guessed") or page["status"] < 400:
        return False
    return page["status"] < 500 or page["error"] is None or not is_of_code(page["error"])


def _unloaded(host: FlaskHost, files: SiteFiles, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    if "loaded" not in answers:
        return
    made = files.made_in(name)
    marker = host.relative(made[0].path if made is not None else files.places.by_name[name].marker)
    for path, line, what in files.unloaded(name, frozenset(answers["loaded"])):
        yield host.finding("routed.not-loaded", name, host.relative(path), line, what=what, marker=marker)


def _unregistered(host: FlaskHost, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    """Blueprints beside the one by which the module is there, and validators of forms, that nothing calls."""
    for one in answers.get("unregistered") or ():
        if one["module"] == name and not _registers(host, one):
            file = host.relative(Path(one["file"]))
            yield host.finding("registered.blueprint-left-out", name, file, one["line"], blueprint=one["name"])
    for one in answers.get("unanswered") or ():
        if one["module"] == name:
            values = {"method": one["method"], "near": one["near"]}
            code = "routed.method-misspelt" if one["near"] else "routed.class-as-view"
            yield host.finding(code, name, host.relative(Path(one["file"])), one["line"], **values)
    for one in answers.get("validators") or ():
        if one["module"] == name:
            file = host.relative(Path(one["file"]))
            values = {key: one[key] for key in ("form", "method", "near")}
            yield host.finding("served.validator-unused", name, file, one["line"], **values)


def _registers(host: FlaskHost, made: dict[str, Any]) -> bool:
    """True where code of the host registers a blueprint by the name that it has there: under a condition, then."""
    for file in written_files(host.root, host.data.facts.sources.skipped):
        source = file.read() if file.path.endswith(".py") else b""
        if b"register_blueprint" not in source:
            continue
        text = source.decode("utf-8", "replace")
        space, variable = made["made_in"].rpartition(".")[2], re.escape(made["variable"])
        imported = re.search(rf"from\s+[\w.]*\b{space}\s+import\b[^\n]*\b{variable}\b(?:\s+as\s+(\w+))?", text)
        own = host.root / file.path == Path(made["file"])
        names = {made["variable"] if own else "", (imported[1] or made["variable"]) if imported else ""} - {""}
        if any(re.search(rf"register_blueprint\([^)]*\b{re.escape(one)}\b", text) for one in names):
            return True
    return False


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
    "block": "served.block-unknown",
}


def _templates_wrong(host: FlaskHost, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    """What is wrong with the templates of a module; with an empty name, with those of the site itself."""
    endpoints = [route["view"] for route in answers.get("routes") or ()]
    for one in answers.get("templates") or ():
        if one["module"] == name and not _named_otherwise(one, answers, name):
            static = (host.place(name).folder if name else host.places.application_folder or host.root) / "static"
            known = endpoints if one["wrong"] == "endpoint" else one.get("among") or _static_files(static)
            match = nearest(one["what"], known) if one["wrong"] in ("endpoint", "static", "block") else None
            what = f"it names {one['what']}, which is not there" if one["wrong"] == "template" else one["what"]
            values = {"what": what, "near": said_near(match)}
            yield host.finding(_WRONG[one["wrong"]], name, host.relative(Path(one["file"])), one["line"], **values)


def _named_otherwise(told: dict[str, Any], answers: dict[str, Any], name: str) -> str:
    """Return the name of the module's own blueprint where a link asks for its view under another one; else empty."""
    asked, _, view = told["what"].partition(".")
    if told["wrong"] != "endpoint" or asked in (answers.get("blueprints") or {}):
        return ""
    own = [blueprint for blueprint, owner in (answers.get("blueprints") or {}).items() if owner == name]
    views = {route["view"] for route in answers.get("routes") or ()}
    return next((blueprint for blueprint in own if f"{blueprint}.{view}" in views), "")


def _other_name(host: FlaskHost, files: SiteFiles, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    """A blueprint whose name is not the one by which its own templates ask for its views."""
    for one in answers.get("templates") or ():
        said = _named_otherwise(one, answers, name) if one["module"] == name else ""
        made = files.made_in(name)
        if said and made is not None:
            values = {
                "name": said,
                "asked": one["what"].partition(".")[0],
                "template": host.relative(Path(one["file"])),
            }
            yield host.finding("described.name-other", name, host.relative(made[0].path), made[1].lineno, **values)
            return


def _host_pages(host: FlaskHost, answers: dict[str, Any]) -> Iterator[Finding]:
    """Pages of no module that end with an error of the server; one for all that break in the same way."""
    told = set()
    for page in answers.get("pages") or ():
        if not page["module"] and page["status"] >= 500 and page["error"]:
            place, reason = place_of(host, page["error"], (host.relative(host.entry_file), 0)), said(page["error"])
            if (place, reason) not in told:
                told.add((place, reason))
                yield host.finding("served.host-page", "", *place, path=page["path"], reason=reason)


def _variables(host: FlaskHost, name: str, answers: dict[str, Any]) -> Iterator[Finding]:
    """What templates of a module's pages show and are not given, where something of nearly that name is there."""
    missing = {
        (one["name"], one["near"], one["of"], page["path"])
        for page in answers.get("pages") or ()
        for one in page["missing"]
        if page["module"] == name
    }
    if not missing:
        return
    for path in sorted(host.place(name).path.rglob("*.html")):
        text = path.read_text("utf-8", "replace")
        for variable, near, held, page in sorted(missing):
            begins = r"[^}%]*\." if held else r"[^}%]*\b"
            shown = re.search(rf"(\{{\{{|\{{%-?\s*for){begins}{re.escape(variable)}\b", text)
            if shown is not None:
                line = text.count("\n", 0, shown.end()) + 1
                values = {"name": variable, "near": near, "path": page}
                yield host.finding("served.variable-misspelt", name, host.relative(path), line, **values)


def _static_files(folder: Path) -> list[str]:
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
