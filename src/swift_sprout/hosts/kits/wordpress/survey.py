"""What survey shows of a WordPress host."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.hostfacts import Missing, ModuleState
from ....core.modulefolders import ModuleFolder
from ....core.plurals import number_of
from ....core.surveys import HostFacts
from .asking import boot
from .database import brings_server
from .facts import wordpress
from .php import PACKAGES, Php
from .view import CONFIGURATION

if TYPE_CHECKING:
    from .view import HostView


def facts(
    view: HostView, live: bool, limit_seconds: float, places: list[ModuleFolder], modules: list[ModuleState]
) -> HostFacts:
    """Tell what is known of the host; ``live`` loads it as well and asks what it found itself."""
    found = HostFacts(view.data.id, view.data.title, str(view.root), view.version)
    found.places, found.modules = places, modules
    php = view.php
    if php is None:
        found.missing.append(Missing("no PHP", f"install {PACKAGES}, or name a PHP with --runtime PATH"))
    elif not live:
        found.runtime, found.runtime_origin = php.path, php.origin
    else:
        _tell_php(found, php, wordpress(view.data).header.least_php)
    if view.configuration is None:
        found.missing.append(Missing(f"no {CONFIGURATION}", "install the host first"))
    else:
        found.settings = view.relative(view.configuration)
    found.notes += view.data.unsure_about(view.version)
    if not live:
        own = "its own server" if brings_server(view.root) else "a server that somebody else runs"
        found.database = f"not asked; {own}"
        found.notes.append("What is on, the database alone says, which was not asked.")
        return found
    state = view.state
    if state is None:
        found.notes.append("The database does not answer, so that nothing is known of what is on.")
    else:
        own = "its own server" if view.server is not None else "a server that somebody else runs"
        found.database = f"MariaDB {state['database'].split('-')[0]}, {own}, {number_of(len(state['tables']), 'table')}"
        gone = sorted(set(state["active"]) - {one.key for one in view.modules})
        found.notes += [f"The database says that {key} is on, but there is no such file." for key in gone]
        by_name = {one.name: one for one in view.modules}
        found.modules = [one._replace(registered=view.is_on(by_name[one.name])) for one in modules]
        found.modules = _asked(view, found.modules, limit_seconds)
    return found


def _tell_php(found: HostFacts, php: Php, least: str) -> None:
    """Tell what runs the host, and what it lacks."""
    try:
        found.runtime, found.runtime_origin = f"PHP {php.version} {php.path}", php.origin
    except HostFailed as error:
        found.missing.append(Missing(error.sentence.rstrip("."), error.remedy))
        return
    found.missing += [Missing(f"PHP without {one}", f"install {PACKAGES}") for one in php.missing]
    if _older(php.version, least):
        found.notes.append(f"PHP {php.version} is older than {least}, which made modules need.")


def _older(version: str, least: str) -> bool:
    return [int(one) for one in version.split(".")[:2]] < [int(one) for one in least.split(".")]


def _asked(view: HostView, modules: list[ModuleState], limit_seconds: float) -> list[ModuleState]:
    told = boot(view, limit_seconds, only=("modules",)).answers
    asked = told.get("modules", {}).get("found", {})
    keys = {one.name: one.key for one in view.modules}
    return [
        one._replace(found=keys[one.name] in asked, enabled=bool(asked.get(keys[one.name], {}).get("active")))
        if not keys[one.name].startswith("theme ")
        else one._replace(enabled=one.registered)
        for one in modules
    ]
