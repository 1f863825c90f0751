"""Taking a module's tables and roles away on WordPress: the rows saved and read back first, the way back known."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.errors import HostFailed, Problem, Refused
from ....core.hostfacts import StepRun
from ...shared.savedrows import count_saved
from .php import last_line, tell
from .reading.kept import roles_of, tables_of
from .reading.tables import tables_spelled
from .settling import set_enabled

if TYPE_CHECKING:
    from .reading.modules import ModuleFiles
    from .view import HostView


def kept_data(view: HostView, module: ModuleFiles, limit_seconds: float) -> dict[str, int]:
    """Return how many rows each table of a module holds."""
    names = _tables(view, module)
    if not names:
        return {}
    state = view.ask_state(limit_seconds, names)
    if state.get("wrong"):
        raise HostFailed("database-broken", f"The database does not tell: {state['wrong']}.", "Fix the database.")
    rows: dict[str, int] = state["rows"] or {}
    return dict(rows.items())


def _tables(view: HostView, module: ModuleFiles) -> list[str]:
    """Return the tables of a module: those that its files spell, and those of the database that only it can make."""
    said = tables_of(module)
    if view.state is None or (module.place / "sprout.toml").is_file():
        return said
    prefix = view.state["prefix"]
    there = [name.removeprefix(prefix) for name in view.state["tables"]]
    others = [one for one in view.modules if one is not module]
    return [*said, *tables_spelled(module, there, others)]


def try_drop(view: HostView, module: ModuleFiles, limit_seconds: float) -> None:
    """Look whether other modules make the same tables: MariaDB takes no statement on tables back, so none is tried."""
    own = set(_tables(view, module))
    others = [one.name for one in view.modules if one.name != module.name and own & set(tables_of(one))]
    if others:
        raise Refused(
            "others-lose-data",
            f"{', '.join(others)} makes tables of the same name as {module.name}; nothing was changed.",
            "Keep the data: --data keep.",
            tuple(Problem(other, "its tables would go as well") for other in others),
        )


def save_rows(view: HostView, module: ModuleFiles, rows_file: Path, limit_seconds: float) -> int:
    """Write the rows to a file, and read it back; returns how many it holds."""
    _asked(view, module, "save", limit_seconds, rows_file, "The rows were not saved, and the tables stay")
    return count_saved(rows_file, lambda held: sum(len(rows) for rows in held.values()))


def drop(view: HostView, module: ModuleFiles, limit_seconds: float) -> list[StepRun]:
    """Take the tables and roles away; raises HostFailed that names the tables which are gone already."""
    answers = _asked(view, module, "drop", limit_seconds, None, "The tables were not all dropped")
    return [StepRun(f"drop {', '.join(answers.get('dropped') or []) or 'nothing'}", True)]


def load_rows(view: HostView, module: ModuleFiles, rows_file: Path, limit_seconds: float) -> None:
    """Switch the module on, which makes its tables, and put the rows back."""
    set_enabled(view, module, True, limit_seconds)
    _asked(view, module, "load", limit_seconds, rows_file, "The rows were not put back")


def _asked(
    view: HostView, module: ModuleFiles, what: str, limit_seconds: float, rows_file: Path | None, failing: str
) -> dict[str, Any]:
    php = view.ready(limit_seconds)
    question = {"what": what, "tables": _tables(view, module), "roles": roles_of(module), "rows": str(rows_file or "")}
    told = tell(php, "rows.php", view.root, question, limit_seconds, view.environment())
    if not told.answers.get("done"):
        gone = ", ".join(told.answers.get("dropped") or [])
        reason = told.answers.get("wrong") or last_line(told.output)
        raise HostFailed(
            "data-not-dropped",
            f"{failing}: {reason}." + (f" Gone are {gone}." if gone else ""),
            "Look at the database's rights and space.",
        )
    return told.answers
