"""What survey tells of a trytond host."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from ....core.hostfacts import Missing, ModuleState
from ....core.modulefolders import ModuleFolder
from ....core.surveys import HostFacts
from .asking import ask, said

if TYPE_CHECKING:
    from .view import HostView


def facts(
    view: HostView, live: bool, limit_seconds: float, places: list[ModuleFolder], modules: list[ModuleState]
) -> HostFacts:
    """Return what is known of a host; ``live`` starts it once to learn what is really loaded."""
    found = view.interpreter
    database = f"sqlite ({view.relative(view.database.path)})" if view.database is not None else ""
    result = HostFacts(
        view.data.id,
        view.data.title,
        str(view.root),
        view.version,
        str(found.path) if found else "",
        found.origin if found else "",
        "trytond.conf",
        f"/{view.database_name}/r/ROUTER" if view.database_name else "",
        database,
        places,
        modules,
        _missing(view),
    )
    result.notes += view.data.unsure_about(view.version)
    if len(view.database_names) > 1:
        others = ", ".join(view.database_names[1:])
        result.notes.append(f"Worked on is the database {view.database_name}; there are others: {others}.")
    roots = ":".join(folder.relative_to(view.root).as_posix() for folder in view.module_roots)
    if roots:
        result.notes.append(f"The host finds its own modules when it is started with PYTHONPATH={roots}.")
    if live and found is not None and view.database is not None:
        answered = ask(view, [], limit_seconds, ())
        loaded = set((answered.answers.get("load") or {}).get("loaded", ()))
        if answered.failure:
            result.missing.append(Missing(answered.failure, "swift-sprout check tells where and why"))
        else:
            result.version = answered.answers["host"]["version"]
            result.modules = [module._replace(enabled=module.name in loaded) for module in result.modules]
        for name, error in answered.stopped.items():
            result.missing.append(Missing(f"{name} stops the host: {said(error)}", f"swift-sprout check {name}"))
    return result


def _missing(view: HostView) -> list[Missing]:
    missing: list[Missing] = []
    if view.interpreter is None:
        tried = f": {'; '.join(view.search.tried)}" if view.search.tried else ""
        missing.append(
            Missing(
                f"no interpreter with {view.data.title}{tried}",
                "name one with --runtime PATH, or make .venv beside trytond.conf and install trytond into it",
            )
        )
    broken = view.configuration.broken
    if broken is not None:
        missing.append(Missing(f"trytond.conf:{broken.line} cannot be read: {broken.text}", "fix that line"))
    elif view.database_folder is None:
        uri = view.configuration.text("database", "uri") or "no uri"
        missing.append(
            Missing(
                f"the database ({uri}) is none that is worked on here", "say uri = sqlite:// and path = … for SQLite"
            )
        )
    elif not view.database_names:
        folder = view.relative(view.database_folder)
        missing.append(
            Missing(
                f"there is no database in {folder}", "make one: an empty NAME.sqlite there, then trytond-admin --all"
            )
        )
    elif view.database is not None and not view.database.states:
        reason = view.database.broken or "it holds no modules"
        missing.append(
            Missing(f"{view.relative(view.database.path)} is no database of the host: {reason}", "trytond-admin --all")
        )
    elif view.database is not None and view.series and view.database.series not in ("", view.series):
        missing.append(
            Missing(
                f"the database is of series {view.database.series}, the host of {view.series}", "trytond-admin --all"
            )
        )
    if not os.access(view.root, os.W_OK):
        missing.append(Missing(f"no right to write in {view.root}", "work as the user who owns the host"))
    return missing
