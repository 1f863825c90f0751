"""Keeps the site's databases apart from what its pages do while they are asked for: nothing of that stays.

SQLite files are opened as copies, whatever library opens them; what is written to other databases through SQLAlchemy is
taken back.
"""

import os
import shutil
import sqlite3
import sys
import threading
from urllib.parse import unquote

ENDINGS = ("", "-wal")


def open_copies(scratch):
    """From now on, open a copy in a folder in the place of each SQLite file."""
    opened = sqlite3.connect
    copies = {}
    one_at_a_time = threading.Lock()

    def copy_of(path):
        path = os.path.abspath(path)
        if path.startswith(os.path.abspath(scratch) + os.sep):
            return path
        with one_at_a_time:
            if path not in copies:
                copy = os.path.join(scratch, f"{len(copies)}-{os.path.basename(path)}")
                for ending in ENDINGS if os.path.isfile(path) else ():
                    if os.path.isfile(path + ending):
                        shutil.copyfile(path + ending, copy + ending)
                copies[path] = copy
            return copies[path]

    def connect(database, *given, **named):
        return opened(_elsewhere(database, named.get("uri", False), copy_of), *given, **named)

    sqlite3.connect = sqlite3.dbapi2.connect = connect


def _elsewhere(database, is_uri, copy_of):
    """Return what to open in the place of a database; one in memory, or in a folder that is not there, as it is."""
    text = os.fsdecode(database)
    if is_uri and text.startswith("file:"):
        path, mark, options = text[len("file:") :].partition("?")
        path = unquote(path[path.index("/", 2) :] if path.startswith("//") and "/" in path[2:] else path)
        if not path or path == ":memory:" or "mode=memory" in options or not _has_folder(path):
            return database
        return f"file:{copy_of(path)}{mark}{options}"
    if text in ("", ":memory:") or not _has_folder(text):
        return database
    return copy_of(text)


def _has_folder(path):
    return os.path.isdir(os.path.dirname(os.path.abspath(path)))


def take_back_commits():
    """From now on, roll back in the place of each commit to a database that is no SQLite file, where SQLAlchemy is."""
    if "sqlalchemy" not in sys.modules:
        return
    from sqlalchemy.engine.default import DefaultDialect

    committed = DefaultDialect.do_commit

    def do_commit(dialect, connection):
        if dialect.name == "sqlite":
            committed(dialect, connection)
        else:
            connection.rollback()

    DefaultDialect.do_commit = do_commit
