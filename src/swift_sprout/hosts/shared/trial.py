"""How a kit's demo host is tried out: what the tests, the fault bench and the benchmarks do alike on every kit.

A kit brings a ``trial`` beside its ``kit.toml``, whose ``TRIAL`` says how its host differs.
"""

from __future__ import annotations

import sqlite3
import subprocess
from collections.abc import Callable, Sequence
from contextlib import closing
from importlib import import_module
from pathlib import Path
from typing import NamedTuple

from ..contract.kitdata import KitData

DEMO_DATABASE = "brindle_quay.sqlite3"


class BareBoot(NamedTuple):
    """The host booted without us, as a floor to measure a check against.

    words   -- the command, to which the addresses to ask for are added
    address -- the address of a module's one page
    end     -- what ends whatever was started beside it
    """

    words: list[str | Path]
    address: Callable[[str], str]
    end: Callable[[], object] = lambda: None


class Trial:
    """How the demo host of a kit on Python is tried out; what differs elsewhere is overridden.

    brief        -- the brief that the made module of the healthy host comes from
    overrides    -- healthy modules by hand that take the place of one of the host's own
    database     -- the SQLite file in which the host keeps its state
    linked       -- folders of the host itself, which copies share
    asking_writes -- asking the host alone changes the files of its database
    page_address -- the address of the page of a small module, in which {number} stands for its number
    """

    brief = "berth_register"
    overrides: tuple[str, ...] = ()
    database = DEMO_DATABASE
    linked: tuple[str, ...] = ()
    asking_writes = False
    page_address = "/beacon-{number}"

    def options(self, runtime: Path) -> list[str | Path]:
        """Return the options that a command needs to run the host."""
        return ["--runtime", runtime]

    def relocate(self, site: Path, old: Path) -> None:
        """Mend what names the folder that the host was copied from."""

    def register_by_hand(self, site: Path) -> None:
        """Register the healthy module that was written by hand, in a way that our program would not."""

    def stop(self, site: Path) -> None:
        """End what the host has running beside it."""

    def is_state(self, path: str) -> bool:
        """True for a file, by its path in the host, in which the host keeps its own state."""
        return path == self.database

    def state(self, site: Path) -> bytes:
        """Return what the host keeps, where it can be read without running it."""
        path = site / self.database
        return path.read_bytes() if path.exists() else b""

    def run_sql(self, site: Path, statements: str) -> None:
        """Carry out statements on the host's database."""
        with closing(sqlite3.connect(site / self.database)) as connection, connection:
            connection.executescript(statements)

    def stations(self, site: Path) -> list[str]:
        """Return the stations in the table of the tide board; none where the table is gone."""
        with closing(sqlite3.connect(site / self.database)) as connection:
            table = _tides(connection)
            return [row[0] for row in connection.execute(f"SELECT station FROM {table}")] if table else []

    def add_stations(self, site: Path, stations: Sequence[str]) -> None:
        """Put a row for each station into the table of the tide board."""
        with closing(sqlite3.connect(site / self.database)) as connection, connection:
            columns = connection.execute(f"PRAGMA table_info({_tides(connection)})").fetchall()
            values = {name: _value(name, kind) for _, name, kind, needed, _, key in columns if needed and not key}
            for station in stations:
                row = {**values, "station": station}
                marks = ", ".join("?" * len(row))
                statement = f"INSERT INTO {_tides(connection)} ({', '.join(row)}) VALUES ({marks})"
                connection.execute(statement, tuple(row.values()))

    def boot_words(self, runtime: Path) -> list[str | Path]:
        """Return the command that loads the host and ends with another status than 0 where it does not load."""
        raise NotImplementedError

    def boots(self, site: Path, runtime: Path) -> str:
        """Boot the host; returns what it says where it does not, else nothing."""
        ran = subprocess.run(self.boot_words(runtime), cwd=site, capture_output=True, text=True)
        return "" if ran.returncode == 0 else (ran.stdout + ran.stderr)[-600:]

    def register_many(self, site: Path, names: list[str], runtime: Path) -> BareBoot:
        """Register and settle modules without our program; returns how the host is booted bare with them."""
        raise NotImplementedError


def trial_of(data: KitData) -> Trial:
    """Return the trial of one of our own kits."""
    trial: Trial = import_module(f"swift_sprout.hosts.kits.{data.id}.trial").TRIAL
    return trial


def run_step(words: Sequence[str | Path], site: Path) -> None:
    """Run a command in a host; raises CalledProcessError where it ends with another status than 0."""
    subprocess.run(words, cwd=site, check=True, capture_output=True)


def _tides(connection: sqlite3.Connection) -> str:
    names = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name LIKE '%tide%tide'")
    return next((name for (name,) in names), "")


def _value(name: str, kind: str) -> object:
    if "at" in name or "DATE" in kind.upper():
        return "2031-04-01 06:00:00"
    return 4.2 if name == "height_m" else ""
