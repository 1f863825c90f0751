"""The tables of a renamed module, in the application's SQLite file: they take the names that its files say now."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....core.errors import Refused
from ....core.hostfacts import StepRun
from .dropping import declared_tables, kept_data, opened, quoted, tables_in

if TYPE_CHECKING:
    from ....core.renaming.identifiers import Identifiers
    from .host import FlaskHost


def refuse_led_by_revisions(host: FlaskHost, module: str) -> None:
    """Raise Refused for rows in tables that the site's revisions lead: renaming them is a revision of the site."""
    mapper = host.mapper_of(host.place(module).label)
    rows = {table: count for table, count in kept_data(host, module).items() if count}
    if rows and mapper is not None and mapper.folder is not None:
        raise Refused(
            "data-not-carried",
            f"{module} has rows in {', '.join(rows)}, which the site's revisions lead; nothing was changed.",
            "Rename the tables by a revision of your own first, or take the rows away.",
        )


def carry_state(host: FlaskHost, module: str, changed: Identifiers) -> list[StepRun]:
    """Rename the tables that carry a name which changed; raises HostFailed with none of them renamed."""
    keeps_rows = host.mapper is not None or declared_tables(host.root / host.state(module).folder)
    if not keeps_rows or host.database is None or not host.database.is_file():
        return []
    with opened(host.database, "rw") as connection:
        there = tables_in(connection)
        moved = {table: changed.renamed(table) for table in there}
        moved = {old: new for old, new in moved.items() if old != new and new not in there}
        connection.execute("begin immediate")
        for old, new in moved.items():
            connection.execute(f"alter table {quoted(old)} rename to {quoted(new)}")
        connection.execute("commit")
    return [StepRun(f"rename the table {old} to {new}", True) for old, new in moved.items()]
