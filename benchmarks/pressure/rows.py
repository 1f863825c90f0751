"""Rows in the tables of the module that is removed: put there beforehand, and looked for afterwards."""

from __future__ import annotations

import sqlite3
import subprocess
from contextlib import closing
from pathlib import Path

from swift_sprout.disk.journal import Journal
from swift_sprout.hosts.kits.wordpress.database import own_server

from ..faults import DATABASES

STATIONS = tuple(f"station {number} of Brindle Quay" for number in range(7))
_IN_PHP = """
$_SERVER['HTTP_HOST'] = 'localhost';
require 'wp-load.php';
$table = current($wpdb->get_col("SHOW TABLES LIKE '%tide%'"));
foreach (array_slice($argv, 1) as $station) {
    $wpdb->insert($table, ['station' => $station, 'high_at' => '2031-04-01 06:00:00', 'height_m' => '4.2']);
}
echo $table ? implode("\\n", $wpdb->get_col("SELECT station FROM `$table`")) : '';
"""


def fill(kit: str, site: Path) -> None:
    """Put a row for each station into the module's table."""
    if kit not in DATABASES:
        held = _asked_of_wordpress(site, STATIONS)
    else:
        with closing(sqlite3.connect(site / DATABASES[kit])) as connection, connection:
            columns = connection.execute(f"PRAGMA table_info({_table(connection)})").fetchall()
            values = {name: _value(name, kind) for _, name, kind, needed, _, key in columns if needed and not key}
            for station in STATIONS:
                row = {**values, "station": station}
                marks = ", ".join("?" * len(row))
                statement = f"INSERT INTO {_table(connection)} ({', '.join(row)}) VALUES ({marks})"
                connection.execute(statement, tuple(row.values()))
        held = _stations(kit, site)
    assert set(held) >= set(STATIONS), held


def lost_rows(kit: str, site: Path, said: str) -> str:
    """Tell what became of the rows where they are neither in the database nor in a file that somebody was told of."""
    missing = set(STATIONS) - set(_stations(kit, site))
    if not missing:
        return ""
    files = sorted((Journal(site).state / "rows").glob("*.json"))
    kept = [file for file in files if all(station in file.read_text("utf-8") for station in missing)]
    if not kept:
        return f"{len(missing)} rows are nowhere"
    done = Journal(site).last()
    said += " ".join(done.notes) if done else ""
    return "" if any(str(file) in said for file in kept) else f"nobody was told of the rows in {kept[-1].name}"


def _stations(kit: str, site: Path) -> list[str]:
    if kit not in DATABASES:
        return _asked_of_wordpress(site, ())
    with closing(sqlite3.connect(site / DATABASES[kit])) as connection:
        table = _table(connection)
        return [row[0] for row in connection.execute(f"SELECT station FROM {table}")] if table else []


def _table(connection: sqlite3.Connection) -> str:
    names = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name LIKE '%tide%tide'")
    return next((name for (name,) in names), "")


def _value(name: str, kind: str) -> object:
    if "at" in name or "DATE" in kind.upper():
        return "2031-04-01 06:00:00"
    return 4.2 if name == "height_m" else ""


def _asked_of_wordpress(site: Path, stations: tuple[str, ...]) -> list[str]:
    server = own_server(site)
    assert server is not None
    server.start(30)
    try:
        ran = subprocess.run(["php", "-r", _IN_PHP, "--", *stations], cwd=site, capture_output=True, text=True)
        return ran.stdout.split("\n")
    finally:
        server.stop()
