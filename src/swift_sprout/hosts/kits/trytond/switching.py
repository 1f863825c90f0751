"""Switching modules on and off: the entry point is a file, the rest is the host's own state in its database."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import HostFailed, Problem, Refused, WrongUse
from ....core.hostfacts import StepRun
from ...contract.exchange import Edit
from .reading.entrypoints import GROUP
from .running import carry_out

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView

ON = ("activated", "to upgrade")


def switch_on(view: HostView, module: ModuleFiles, at: str | None) -> Edit:
    """Return the edits that let the host find a module; raises WrongUse for an address, which the host fixes itself."""
    if at is not None:
        raise WrongUse(
            "address-fixed",
            f"--at {at}: the address of a module's pages is /DATABASE/r/ROUTER on this host.",
            "Leave --at out.",
        )
    edit = Edit(ChangeSet(f"enable {module.name}"))
    if view.state(module) in ON:
        edit.already.append(f"the database {view.database_name} has it activated")
    elif view.database is not None:
        edit.turns.append(f"activate {module.name} in database {view.database_name}")
    if module.entries:
        edit.already.append(f"an entry point names it ({view.relative(module.entries[0].file)})")
        return edit
    version = module.version or "0.0.0"
    folder = module.folder.parent
    beside = f"{folder.relative_to(view.root).as_posix()}/{module.folder.name}-{version}.dist-info".removeprefix("./")
    metadata = f"Metadata-Version: 2.1\nName: {module.folder.name}\nVersion: {version}\n"
    points = f"[{GROUP}]\n{module.name} = {module.folder.name}\n"
    for name, text in (("METADATA", metadata), ("entry_points.txt", points)):
        path = view.root / beside / name
        before = path.read_bytes() if path.is_file() else None
        if before is not None and name == "entry_points.txt":
            text = before.decode("utf-8", "replace").rstrip("\n") + "\n\n" + points
        elif before is not None:
            continue
        edit.changes.add(f"{beside}/{name}", before, text.encode("utf-8"))
    return edit


def switch_off(view: HostView, module: ModuleFiles) -> Edit:
    """Return what switching off changes in files: nothing, for the host must find a module to let it go."""
    edit = Edit(ChangeSet(f"disable {module.name}"))
    if view.state(module) not in ON:
        edit.already.append("the database does not have it activated")
    else:
        edit.turns.append(f"deactivate {module.name} in database {view.database_name}")
        edit.stays.append("its entry point stays, so that the host still finds it")
    try:
        counts = kept_data(view, module)
    except HostFailed:
        counts = {}
    edit.stays += [
        f"table {table} stays, with {count} row{'' if count == 1 else 's'}" for table, count in counts.items()
    ]
    return edit


def entry_files(view: HostView, module: ModuleFiles) -> ChangeSet:
    """Return the change set that takes a module's entry point away, with its metadata where nothing else is in it."""
    changes = ChangeSet(f"remove the entry point of {module.name}")
    for entry in module.entries:
        if not entry.file.is_relative_to(view.root):
            continue
        content = entry.file.read_text("utf-8")
        rest = [line for line in content.split("\n") if line.partition("=")[0].strip() != module.name]
        if [line for line in rest if "=" in line]:
            changes.add(entry.file.relative_to(view.root).as_posix(), content.encode("utf-8"), "\n".join(rest).encode())
            continue
        for path in sorted(entry.file.parent.iterdir()):
            if path.is_file():
                changes.add(path.relative_to(view.root).as_posix(), path.read_bytes(), None)
    return changes


def turn(view: HostView, module: ModuleFiles, on: bool, limit_seconds: float) -> list[StepRun]:
    """Activate or deactivate a module in the database.

    Raises Refused when modules that are on need one that is to go off, and HostFailed with the host's reason.
    """
    if view.database is None:
        raise HostFailed(
            "no-database",
            "The host has no SQLite database that could be worked on.",
            "Make it with the host's own administration command, and name its folder under [database] path.",
        )
    is_on = view.state(module) in ON
    if is_on == on:
        return []
    if on:
        words = ["-m", "-u", module.name, "--activate-dependencies"]
        carry_out(view, f"activate {module.name}", "admin", limit_seconds, words=words)
        return [StepRun(f"activate {module.name} in database {view.database_name}", True)]
    holders = [
        one.name
        for one in view.modules
        if view.state(one) in ON and one is not module and module.name in {item.text for item in one.depends}
    ]
    if holders:
        raise Refused(
            "needed-by",
            f"{module.name} cannot be switched off: {', '.join(holders)} need{'s' if len(holders) == 1 else ''} it.",
            "Switch those off first.",
            tuple(Problem(name, "needs it") for name in holders),
        )
    carry_out(view, f"deactivate {module.name}", "deactivate", limit_seconds, modules=[module.name])
    return [StepRun(f"deactivate {module.name} in database {view.database_name}", True)]


def settle(view: HostView, modules: list[ModuleFiles], limit_seconds: float, samples: bool) -> list[StepRun]:
    """Update the modules that are on, so that the database follows their files; raises HostFailed."""
    chosen = modules or [module for module in view.modules if module.own]
    active = [module for module in chosen if view.state(module) in ON]
    runs: list[StepRun] = []
    if active:
        names = [module.name for module in active]
        title = f"update {', '.join(names)}"
        runs.append(StepRun(title, True, carry_out(view, title, "admin", limit_seconds, words=["-u", *names])))
    for module in active if samples else ():
        if module.has("samples.py"):
            output = carry_out(view, f"samples of {module.name}", "samples", limit_seconds, modules=[module.name])
            runs.append(StepRun(f"load samples of {output.strip().splitlines()[-1]}", True, output))
    return runs


def own_tables(module: ModuleFiles) -> list[str]:
    """Return the tables of a module's own records, as its code names them."""
    names = [one.model for one in module.classes if one.model.startswith(f"{module.name}.") and one.sort == "model"]
    return [name.replace(".", "_") for name in dict.fromkeys(names)]


def kept_data(view: HostView, module: ModuleFiles) -> dict[str, int]:
    """Return the rows of a module's tables that are there; raises HostFailed for a database that cannot be read."""
    database = view.database
    if database is None:
        return {}
    counts = {table: database.count(table) for table in own_tables(module) if table in database.columns}
    if database.broken:
        raise HostFailed(
            "database-broken",
            f"The database {view.relative(database.path)} cannot be read: {database.broken}.",
            "Take it back from a copy, or make it anew with the host's own administration command.",
        )
    return counts
