"""The host's database as it stands, read without the host: SQLite only, opened so that it cannot be changed."""

from __future__ import annotations

import urllib.parse
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import sqlite3


def open_readonly(path: Path, wait_seconds: float) -> sqlite3.Connection:
    """Open a database so that nothing is written, not even the files that SQLite puts beside one."""
    import sqlite3

    in_use = Path(f"{path}-wal").exists()  # then the newest rows stand there
    mode = "mode=ro" if in_use else "mode=ro&immutable=1"
    return sqlite3.connect(f"file:{urllib.parse.quote(str(path))}?{mode}", uri=True, timeout=wait_seconds)


class Database:
    """A database of the host; ``broken`` says why it cannot be read."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.broken = ""

    def stamp(self) -> list[str]:
        """Return what differs when something was written: sizes and times of the database and of its newest rows."""
        found = []
        for path in (self.path, Path(f"{self.path}-wal")):
            try:
                told = path.stat()
            except OSError:
                continue
            if told.st_size:
                found.append(f"{path} {told.st_size} {told.st_mtime_ns}")
        return found

    def rows(self, statement: str, *values: object) -> list[tuple[object, ...]]:
        """Return the rows of a question; none where the database cannot be asked."""
        import sqlite3

        try:
            connection = open_readonly(self.path, 2)
            try:
                return connection.execute(statement, values).fetchall()
            finally:
                connection.close()
        except sqlite3.Error as error:
            self.broken = str(error)
            return []

    @cached_property
    def states(self) -> dict[str, str]:
        """The state of each module that the database knows."""
        return {str(name): str(state) for name, state in self.rows("select name, state from ir_module")}

    @cached_property
    def series(self) -> str:
        """The series of the host that last updated the database."""
        found = self.rows("select series from ir_configuration")
        return str(found[0][0]) if found and found[0][0] else ""

    @cached_property
    def ids(self) -> dict[str, set[str]]:
        """The ids of data records by module."""
        found: dict[str, set[str]] = {}
        for module, fs_id in self.rows("select module, fs_id from ir_model_data"):
            found.setdefault(str(module), set()).add(str(fs_id))
        return found

    @cached_property
    def columns(self) -> dict[str, set[str]]:
        """The columns of each table."""
        found: dict[str, set[str]] = {}
        for table, column in self.rows(
            "select m.name, c.name from sqlite_master m, pragma_table_info(m.name) c where m.type = 'table'"
        ):
            found.setdefault(str(table), set()).add(str(column))
        return found

    def count(self, table: str) -> int:
        """Return how many rows a table has; 0 when it is not there."""
        if table not in self.columns:
            return 0
        quoted = '"' + table.replace('"', '""') + '"'
        found = self.rows(f"select count(*) from {quoted}")
        return int(str(found[0][0])) if found else 0
