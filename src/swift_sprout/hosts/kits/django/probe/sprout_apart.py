"""Copies of databases: of the host's, and of those copies for work that would make others wait."""

import os
from contextlib import contextmanager


def copy_sqlite(name, copy):
    """Copy an SQLite database that others may be using, reading only."""
    import sqlite3
    from urllib.parse import quote

    source = sqlite3.connect(f"file:{quote(os.path.abspath(name))}?mode=ro", uri=True, timeout=3)
    source.execute("SELECT count(*) FROM sqlite_master").fetchone()  # fails in time when the file is locked
    target = sqlite3.connect(copy)
    with target:
        source.backup(target)
    target.close()
    source.close()


@contextmanager
def databases_apart(folder):
    """Work on databases of one's own while the block runs, which begin as what the others have.

    Whoever writes to a SQLite file for longer makes everybody else wait for it, and give up after a few seconds.
    """
    from django.db import connections

    before = {}
    for alias in connections:
        connection = connections[alias]
        name = str(connection.settings_dict["NAME"])
        if connection.vendor == "sqlite" and os.path.isfile(name):
            connection.close()
            apart = os.path.join(folder, f"apart-{alias}.sqlite3")
            copy_sqlite(name, apart)
            before[alias] = connection.settings_dict["NAME"]
            connection.settings_dict["NAME"] = apart
    try:
        yield
    finally:
        for alias, name in before.items():
            connections[alias].close()
            connections[alias].settings_dict["NAME"] = name
