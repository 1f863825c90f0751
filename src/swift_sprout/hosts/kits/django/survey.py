"""What survey tells of a Django host, and what data a module keeps in it."""

from __future__ import annotations

import os
from pathlib import Path

from ....core.hostfacts import Missing, ModuleState
from ....core.modulefolders import ModuleFolder
from ....core.surveys import HostFacts
from .asking import FAILS_WHILE, Asking, said
from .reading.settings import UNKNOWN
from .view import HostView


def facts(
    view: HostView, live: bool, limit_seconds: float, places: list[ModuleFolder], modules: list[ModuleState]
) -> HostFacts:
    """Return what is known of a host; ``live`` starts it once to learn what is really enabled."""
    found = view.interpreter
    result = HostFacts(
        view.data.id,
        view.data.title,
        str(view.root),
        view.version,
        str(found.path) if found else "",
        found.origin if found else "",
        _settings(view),
        view.root_urls,
        _database(view),
        places,
        modules,
        _missing(view),
    )
    result.notes += view.data.unsure_about(view.version)
    if live and found is not None:
        _ask(view, result, limit_seconds)
    return result


def _ask(view: HostView, result: HostFacts, limit_seconds: float) -> None:
    with Asking(view, limit_seconds, ()) as asking:
        live = asking.about(view.modules)
    for step in ("entry", "settings", "databases", "setup"):
        error = live.failures.get(step)
        if error is not None and not live.failure:
            live.failure = f"the host fails {FAILS_WHILE[step]}: {said(error)}"
    if live.failure:
        result.missing.append(Missing(live.failure, "swift-sprout check tells where and why"))
        return
    if view.data.base is None:  # what the host itself says is the version of what a further kit builds on
        result.version = live.answers["entry"]["version"]
    names = {entry["name"] for entry in live.answers.get("registry") or []}
    result.modules = [module._replace(enabled=module.name in names) for module in result.modules]
    for alias, database in live.answers["databases"].items():
        if database.get("there") is False:
            remedy = "swift-sprout settle makes and fills it"
            result.missing.append(Missing(f"the database {alias} ({database['name']}) is not there yet", remedy))
    for name, error in live.stopped.items():
        result.missing.append(Missing(f"{name} stops the host: {said(error)}", f"swift-sprout check {name}"))


def _settings(view: HostView) -> str:
    settings = view.settings
    if settings is None:
        return ""
    return f"{settings.module} ({view.relative(settings.path)})" if settings.path else settings.module


def _database(view: HostView) -> str:
    databases = view.settings.plain("DATABASES", {}) if view.settings else {}
    default = databases.get("default", {}) if isinstance(databases, dict) else {}
    engine = default.get("ENGINE", "") if isinstance(default, dict) else ""
    if engine is UNKNOWN or not isinstance(engine, str) or not engine:
        return ""
    name = default.get("NAME", "")
    shown = view.relative(view.root / name) if isinstance(name, str | Path) and str(name) else "name not readable"
    return f"{engine.rpartition('.')[2]} ({shown})"


def _missing(view: HostView) -> list[Missing]:
    missing: list[Missing] = []
    if view.interpreter is None:
        tried = f": {'; '.join(view.search.tried)}" if view.search.tried else ""
        missing.append(
            Missing(
                f"no interpreter with {view.data.title}{tried}",
                "name one with --runtime PATH, or make .venv beside manage.py and install the host's packages",
            )
        )
    if view.settings is None:
        missing.append(
            Missing("manage.py does not say in plain text which settings are used", "set DJANGO_SETTINGS_MODULE")
        )
    elif view.settings.path is None:
        missing.append(Missing(f"the settings module {view.settings.module} is not there", "fix its name in manage.py"))
    for path, line, reason in view.settings.broken if view.settings else ():
        missing.append(Missing(f"{view.relative(path)}:{line} does not parse: {reason}", "fix that line"))
    if not os.access(view.root, os.W_OK):
        missing.append(Missing(f"no right to write in {view.root}", "work as the user who owns the host"))
    return missing
