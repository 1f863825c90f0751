"""Taking a Flask module's tables away: its own ``schema.sql`` names them, in the application's SQLite file."""

from __future__ import annotations

import json
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....core.errors import HostFailed, Problem, Refused
from ....core.hostfacts import StepRun
from ....running.scratch import scratch_folder
from ...shared.savedrows import count_saved

if TYPE_CHECKING:
    from .host import FlaskHost

SCHEMA = "schema.sql"
MOST_STEPS = 5_000_000  # of SQLite's own machine, for statements that should but make tables


def declared_tables(folder: Path) -> list[str]:
    """Return the tables that a module's SQL makes, told by SQLite itself; raises HostFailed for SQL that it refuses."""
    try:
        text = (folder / SCHEMA).read_text("utf-8")
    except (FileNotFoundError, NotADirectoryError):  # a module may be one file alone
        return []
    except (OSError, ValueError) as error:
        raise HostFailed("schema-unread", f"{folder.name}/{SCHEMA} cannot be read: {error}.", "Fix it.") from None
    with closing(sqlite3.connect(":memory:")) as connection:
        #  a module that is only read may neither open further files nor go on for ever
        deny, allow = sqlite3.SQLITE_DENY, sqlite3.SQLITE_OK
        connection.set_authorizer(lambda act, *_: deny if act == sqlite3.SQLITE_ATTACH else allow)
        connection.set_progress_handler(lambda: 1, MOST_STEPS)
        try:
            connection.executescript(text)
        except sqlite3.Error as error:
            raise HostFailed("schema-unread", f"SQLite refuses {folder.name}/{SCHEMA}: {error}.", "Fix it.") from None
        connection.set_authorizer(None)
        return tables_in(connection)


def kept_data(host: FlaskHost, module: str) -> dict[str, int]:
    """Return the rows of a module's tables that are there; raises HostFailed where the application does not tell."""
    names = declared_tables(host.root / host.state(module).folder)
    if host.mapper is not None:
        names = [*names, *host.kept.tables.get(host.state(module).name, ())]
    if not names:
        return {}
    if host.database is None:
        raise HostFailed(
            "rows-unknown",
            f"{module} keeps rows in {', '.join(names)}, but the application names no SQLite file that holds them.",
            "Look at the rows yourself, then say --data keep.",
        )
    if not host.database.is_file():
        return {}
    with opened(host.database, "ro") as connection:
        there = {name.lower() for name in tables_in(connection)}
        return {name: _count(connection, name) for name in names if name.lower() in there}


def try_drop(host: FlaskHost, module: str) -> None:
    """Take the tables away in a copy; raises Refused where others' tables point at them, HostFailed where it fails."""
    tables = list(kept_data(host, module))
    if host.database is None or not tables:
        return
    mapper = host.mapper_of(host.place(module).label)
    if mapper is not None and mapper.folder is not None:
        raise Refused(
            "led-by-revisions",
            f"The tables of {module} are led by the site's revisions, which would no longer fit; nothing was changed.",
            "Say --data keep; when it is gone, this writes the revision that drops them: python -m flask db migrate",
        )
    with scratch_folder(on_disk=True) as scratch:
        copy = Path(shutil.copy2(host.database, scratch / "database.sqlite3"))
        with opened(copy, "rw") as connection:
            gone = {table.lower() for table in tables}
            pointing = [
                Problem(other, f"points at {target}")
                for other in tables_in(connection)
                if other.lower() not in gone
                for target in _targets(connection, other)
                if target.lower() in gone
            ]
            if pointing:
                raise Refused(
                    "others-lose-data",
                    f"Tables of others point at those of {module}; nothing was changed.",
                    "Take those away first, or keep the data: --data keep.",
                    tuple(pointing),
                )
            _drop(connection, tables)


def save_rows(host: FlaskHost, module: str, rows_file: Path) -> int:
    """Write the rows, and the statements that make their tables, to a file; returns how many it holds when read."""
    tables = list(kept_data(host, module))
    if host.database is None:
        return 0
    with opened(host.database, "ro") as connection:
        marks = ", ".join("?" * len(tables))
        statements = connection.execute(
            f"select sql from sqlite_master where tbl_name collate nocase in ({marks}) and sql is not null "
            "order by type != 'table'",
            tables,
        )
        held = {
            "statements": [sql for (sql,) in statements],
            "rows": {one: _rows_of(connection, one) for one in tables},
        }
    rows_file.write_text(json.dumps(held, ensure_ascii=False, indent=1), "utf-8")
    return count_saved(rows_file, lambda read: sum(len(table["rows"]) for table in read["rows"].values()))


def drop(host: FlaskHost, module: str) -> list[StepRun]:
    """Take the tables away, all of them or none; raises HostFailed."""
    tables = list(kept_data(host, module))
    if host.database is None or not tables:
        return []
    with opened(host.database, "rw") as connection:
        _drop(connection, tables)
    return [StepRun(f"drop {', '.join(tables)}", True)]


def load_rows(host: FlaskHost, rows_file: Path) -> None:
    """Make the tables that are not there, and put the rows back into those that are empty; raises HostFailed."""
    held = json.loads(rows_file.read_text("utf-8"))
    if host.database is None:
        return
    with opened(host.database, "rw") as connection:
        connection.execute("begin immediate")
        there = tables_in(connection)
        if not set(held["rows"]) & set(there):
            for statement in held["statements"]:
                connection.execute(statement)
        for table, content in held["rows"].items():
            if _count(connection, table):
                continue
            columns = ", ".join(map(quoted, content["columns"]))
            marks = ", ".join("?" * len(content["columns"]))
            connection.executemany(
                f"insert into {quoted(table)} ({columns}) values ({marks})",
                [[_as_value(value) for value in row] for row in content["rows"]],
            )
        connection.execute("commit")


@contextmanager
def opened(database: Path, mode: str) -> Iterator[sqlite3.Connection]:
    """Open a database without ever making one; what SQLite says is raised as HostFailed, all of it taken back."""
    try:
        with closing(sqlite3.connect(f"{database.absolute().as_uri()}?mode={mode}", uri=True)) as connection:
            connection.isolation_level = None  # transactions begin and end where that is written
            yield connection
    except sqlite3.Error as error:
        raise HostFailed(
            "database-broken", f"The database {database.name} cannot be used: {error}.", "Fix that first."
        ) from None


def _drop(connection: sqlite3.Connection, tables: list[str]) -> None:
    connection.execute("pragma foreign_keys = off")
    connection.execute("begin immediate")
    for table in tables:
        connection.execute(f"drop table {quoted(table)}")
    connection.execute("commit")


def tables_in(connection: sqlite3.Connection) -> list[str]:
    """Return the names of a database's tables."""
    names = connection.execute(
        "select name from sqlite_master where type = 'table' and name not like 'sqlite\\_%' escape '\\'"
    )
    return [name for (name,) in names]


def _targets(connection: sqlite3.Connection, table: str) -> list[str]:
    return [row[2] for row in connection.execute(f"pragma foreign_key_list({quoted(table)})")]


def _count(connection: sqlite3.Connection, table: str) -> int:
    return int(connection.execute(f"select count(*) from {quoted(table)}").fetchone()[0])


def _rows_of(connection: sqlite3.Connection, table: str) -> dict[str, list[Any]]:
    found = connection.execute(f"select * from {quoted(table)}")
    columns = [column[0] for column in found.description]
    return {"columns": columns, "rows": [[_as_text(value) for value in row] for row in found]}


def quoted(name: str) -> str:
    """Spell a name as SQLite takes it."""
    return '"' + name.replace('"', '""') + '"'


def _as_text(value: Any) -> Any:
    """Bytes as an object that JSON can hold; every other value of SQLite it holds as it is."""
    return {"hex": value.hex()} if isinstance(value, bytes) else value


def _as_value(value: Any) -> Any:
    return bytes.fromhex(value["hex"]) if isinstance(value, dict) else value
