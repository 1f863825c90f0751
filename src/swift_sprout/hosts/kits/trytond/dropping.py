"""The rows that a trytond module keeps, and taking its tables away: tried on a copy, the rows saved and read back."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ....core.errors import HostFailed
from ....core.hostfacts import StepRun
from ....running.scratch import scratch_folder
from ...shared.savedrows import count_saved
from .asking import copy_database
from .running import carry_out
from .settling import set_enabled

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView


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


def try_drop(view: HostView, module: ModuleFiles, limit_seconds: float) -> None:
    """Take the tables away in a copy of the database; raises HostFailed."""
    with scratch_folder(on_disk=True) as copies:
        copy_database(view, copies)
        tables = list(kept_data(view, module))
        carry_out(view, f"drop {', '.join(tables)}", "drop", limit_seconds, tables=tables, databases=str(copies))


def save_rows(view: HostView, module: ModuleFiles, rows_file: Path, limit_seconds: float) -> int:
    """Write the rows to a file, and read it back; returns how many it holds."""
    tables = list(kept_data(view, module))
    title = f"write the rows to {rows_file.name}"
    carry_out(view, title, "save", limit_seconds, tables=tables, rows_file=str(rows_file))
    return count_saved(rows_file, lambda held: sum(len(rows) for rows in held.values()))


def drop(view: HostView, module: ModuleFiles, limit_seconds: float) -> list[StepRun]:
    """Take the tables away, all of them or none; raises HostFailed."""
    tables = list(kept_data(view, module))
    title = f"drop {', '.join(tables)}"
    carry_out(view, title, "drop", limit_seconds, tables=tables)
    return [StepRun(title, True)]


def load_rows(view: HostView, module: ModuleFiles, rows_file: Path, limit_seconds: float) -> None:
    """Let the host make the tables again by activating the module, and put the rows back."""
    set_enabled(view, module, True, limit_seconds)
    carry_out(view, "put the rows back", "load", limit_seconds, rows_file=str(rows_file))
