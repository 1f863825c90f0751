"""Asking the running application: it is started once, and a module that stops it is left out."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from ....core.errors import HostFailed
from ....core.results import SetupCheck
from ....running.probe import ProbeFailed, step_in_words
from ....running.scratch import scratch_folder
from ...contract.exchange import StartUp
from ...python.probing import python_probe
from ...shared.leaving_out import start_without_culprits
from .entry import source_roots

if TYPE_CHECKING:
    from .host import FlaskHost

PROBE = Path(__file__).parent / "probe" / "ask.py"


def start_up(host: FlaskHost) -> StartUp:
    """Load the application once, ask for no page, and tell whose blueprints it has."""
    if host.search.found is None:
        return StartUp(False)
    result = SetupCheck("real", True)
    answers, stopped = ask(host, (), result)
    failures = [result.failure] if result.failure else []
    failures += [f"{name} stops it: {said(error)}" for name, error in stopped.items()]
    return StartUp(True, tuple(failures), frozenset({*(answers.get("blueprints") or {}).values(), *stopped}))


def ask(
    host: FlaskHost, modules: Sequence[str], result: SetupCheck
) -> tuple[dict[str, Any], dict[str, dict[str, Any]]]:
    """Ask the running application; a module whose import stops it is told apart and left out."""
    python = host.search.found
    if python is None:
        result.failure, result.failure_remedy = "there is no interpreter with Flask", "Name one with --runtime PATH."
        return {}, {}

    def start(left_out: Mapping[str, dict[str, Any]]) -> dict[str, Any]:
        with scratch_folder() as scratch:
            question = {
                "modules": list(modules),
                "known": [one.name for one in host.modules()],
                "application": host.said_application,
                "loads": host.entry.loads if host.entry is not None else "",
                "folders": _template_folders(host),
                "source_roots": [str(folder) for folder in source_roots(host.root)],
                "scratch": str(scratch),
                "without": list(left_out),
            }
            with python_probe(python, PROBE, host.root, question, host.options.limit_seconds) as probe:
                return probe.answers()

    def culprit(answers: dict[str, Any], left_out: Mapping[str, dict[str, Any]]) -> tuple[str, dict[str, Any]] | None:
        error = answers["failures"].get("application")
        name = culprit_of(host, error) if error is not None else ""
        return (name, error) if error is not None and name and name not in left_out else None

    try:
        answers, stopped = start_without_culprits(start, culprit)
    except ProbeFailed as failed:
        result.failure = f"the host was ended while it was asked for its {step_in_words(failed.step)}: {failed.reason}"
        result.failure_remedy = "Fix what it says; a longer wait is given with --time-limit SECONDS."
        return {}, {}
    result.version = answers.get("host", {}).get("version", result.version)
    error = answers["failures"].get("application")
    if error is not None:
        result.failure = f"the application does not start: {said(error)}"
        result.failure_remedy = "Fix what is named there; the host itself stops in the same way."
    result.notes += [f"{name} stops the host as it stands; the others were checked without it" for name in stopped]
    return answers, stopped


def _template_folders(host: FlaskHost) -> dict[str, str]:
    """Return by module where its templates may lie; those of the site itself under an empty name."""
    found = {name: str(place.path) for name, place in host.places.by_name.items() if not place.is_file}
    return {**found, "": str(host.places.application_folder or host.root)}


def culprit_of(host: FlaskHost, error: dict[str, Any]) -> str:
    """Return the module whose file or registration stopped the application; empty where none can be told."""
    application, places = host.application, host.places
    for one in reversed(error["chain"]):
        files = [one.get("file") or ""] + [frame["file"] for frame in reversed(one["frames"])]
        for file in files:
            for name, place in places.by_name.items():
                if file and place.holds(Path(file)):
                    return name
    if application is not None:
        lines = {(one.path, one.line): one.package for one in application.registered}
        for frame in (frame for one in error["chain"] for frame in one["frames"]):
            package = lines.get((Path(frame["file"]), frame["line"]))
            if package is not None:
                return places.owner(package) or package.partition(".")[0]
    names = list(places.by_name)
    text = " ".join(one["text"] for one in error["chain"])
    return next((name for name in sorted(names, key=len, reverse=True) if re.search(rf"\b{name}\b", text)), "")


def said(error: dict[str, Any]) -> str:
    """Return the last exception of a chain as one line."""
    last = error["chain"][-1]
    return f"{last['kind']}: {' '.join(str(last['text']).split())[:300]}"


def place_of(host: FlaskHost, error: dict[str, Any], otherwise: tuple[str, int]) -> tuple[str, int]:
    """Return file and line where an exception came from, or what is given for one that tells none."""
    for one in reversed(error["chain"]):
        if one.get("file") and one.get("line"):
            return host.relative(Path(one["file"])), int(one["line"])
        for frame in reversed(one["frames"]):
            return host.relative(Path(frame["file"])), int(frame["line"])
    return otherwise


class Database(NamedTuple):
    """What the running application tells of what it keeps.

    file   -- its SQLite file; None for another database, or none
    tables -- by module, the tables of its mapped records that are there
    """

    file: Path | None
    tables: Mapping[str, list[str]]


def database_of(host: FlaskHost) -> Database:
    """Return what the running application keeps, and where; raises HostFailed where it does not tell."""
    result = SetupCheck("real", True)
    answers, stopped = ask(host, (), result)
    failures = [result.failure] if result.failure else []
    failures += [f"{name} stops it: {said(error)}" for name, error in stopped.items()]
    if failures:
        raise HostFailed("host-stopped", f"The application does not tell its database: {failures[0]}.", "Fix that.")
    named = answers.get("database")
    tables: dict[str, list[str]] = {}
    for one in answers.get("mapped") or ():
        if one["there"]:
            tables.setdefault(one["module"], []).append(one["table"])
    return Database(Path(host.root, named) if named else None, tables)


def place_of_view(host: FlaskHost, page: dict[str, Any], otherwise: Path) -> tuple[str, int]:
    """Return where the running application has the view of a page, such as a class, if that is a file of the host."""
    file = Path(page["place"]["file"])
    inside = file.is_absolute() and file.is_relative_to(host.root)
    return (host.relative(file), page["place"]["line"]) if inside else (host.relative(otherwise), 0)
