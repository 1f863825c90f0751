"""Making the tables that are not there: by the site's revisions, else by the modules' own commands."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.hostfacts import StepRun
from ....running.activity import doing
from ....running.process import run

if TYPE_CHECKING:
    from .host import FlaskHost


def settle(host: FlaskHost, modules: Sequence[str]) -> list[StepRun]:
    """Make the tables that are not there; raises HostFailed where a step does not work."""
    names = list(modules or [one.name for one in host.modules() if one.registered])
    led = host.mapper is not None and host.mapper.folder is not None and bool(names)
    runs = [_step(host, "upgrade the database", ["db", "upgrade"])] if led else []
    for module in names:
        if not makes_tables(host, module):
            continue
        if host.mapper_of(host.place(module).label) is None and host.database is None:
            raise HostFailed(
                "no-database",
                f"The application names no database for the tables of {module}: its configuration has no DATABASE.",
                'Set app.config["DATABASE"] to the path of a SQLite file where the application is made.',
            )
        runs.append(_step(host, f"make tables of {module}", [host.place(module).label, "make-tables"]))
    return runs


def _step(host: FlaskHost, what: str, words: list[str]) -> StepRun:
    """Run one of the host's commands; raises HostFailed where it does not work."""
    command = [str(host.interpreter().path), "-m", "flask", "--app", host.said_application, *words]
    environment = {"PYTHONDONTWRITEBYTECODE": "1", **host.serve_environment(0)}
    doing(what)
    ended = run(command, host.root, max(host.options.limit_seconds, 60), environment)
    if ended.status != 0:
        lines = [line for line in ended.output.splitlines() if line.strip()] or ["it printed nothing"]
        raise HostFailed(
            "settle-failed",
            f"Step {what} did not work: {lines[-1][:300]}",
            "Fix that; `swift-sprout check` tells where and why.",
        )
    return StepRun(what, True, ended.output)


def makes_tables(host: FlaskHost, module: str) -> bool:
    """True for a module that brings our command for it; one by hand has its tables made in a way of its own."""
    place = host.place(module)
    code = [path.read_text("utf-8", "replace") for path in place.all_code()]
    return not place.is_file and any('cli.command("make-tables")' in text for text in code)
