"""Runs one command of trytond with the host's modules on the import path, on its own databases or on copies.

Started in the host's folder with a JSON object as its third argument:

    {"command": "admin" | "serve" | "deactivate" | "samples" | "save" | "load" | "drop",
     "configuration": "trytond.conf", "database": "…",
     "databases": "", "python_path": ["modules"], "words": [], "port": 0, "modules": [], "rows_file": ""}
"""

import json
import os
import sys
import tempfile


def main():
    question = json.loads(sys.argv[3])
    sys.path[:2] = question["python_path"]
    files = [question["configuration"]]
    more = ["[database]", f"path = {question['databases']}"] if question["databases"] else []
    more += ["[web]", f"listen = 127.0.0.1:{question['port']}"] if question.get("port") else []
    if more:
        handle, path = tempfile.mkstemp(suffix=".conf")
        os.write(handle, "\n".join([*more, ""]).encode())
        os.close(handle)
        files.append(path)
    try:
        COMMANDS[question["command"]](question, files)
    finally:
        if more:
            os.unlink(files[-1])


def admin(question, files):
    from trytond.cli.admin import main as run

    sys.argv = ["trytond-admin", "-c", *files, "-d", question["database"], *question["words"]]
    run()


def serve(question, files):
    from trytond.cli import main as run

    sys.argv = ["trytond", "-c", *files, "-d", question["database"]]
    run()


def deactivate(question, files):
    """Mark modules for removal and update them: updating only the core would switch them on again."""
    pool = pool_of(question, files)
    from trytond.transaction import Transaction

    with Transaction().start(question["database"], 0) as transaction:
        Module = pool.get("ir.module")
        Module.deactivate(Module.search([("name", "in", question["modules"])]))
        transaction.commit()
    pool.init(update=list(question["modules"]))
    with Transaction().start(question["database"], 0) as transaction:
        # the host deletes the records but keeps their ids, over which a later activation would stumble
        Data = pool.get("ir.model.data")
        Data.delete(Data.search([("module", "in", question["modules"])]))
        transaction.commit()


def pool_of(question, files):
    from trytond import config

    config.update_etc(files)
    from trytond.pool import Pool

    Pool.start()
    pool = Pool(question["database"])
    pool.init()
    return pool


def samples(question, files):
    pool_of(question, files)
    from trytond import tools
    from trytond.transaction import Transaction

    with Transaction().start(question["database"], 0) as transaction:
        for name in question["modules"]:
            module = tools.import_module(name)
            found = __import__(f"{module.__name__}.samples", fromlist=["load"]).load()
            print(f"{name}: {found} new row{'' if found == 1 else 's'}")
        transaction.commit()


def save(question, files):
    """Write the rows of a module's own tables to a file that is there."""
    connection = opened(question, files)
    kept = {}
    for table in question["tables"]:
        kept[table] = [dict(row) for row in connection.execute(f"select * from {quoted(table)}")]
    with open(question["rows_file"], "w", encoding="utf-8") as handle:
        json.dump(kept, handle, indent=1, default=packed)
    connection.close()
    print(f"{len(kept)} tables written")


def load(question, files):
    """Put the rows of a file back into their tables."""
    connection = opened(question, files)
    with open(question["rows_file"], encoding="utf-8") as handle:
        kept = json.load(handle)
    with connection:
        for table, rows in kept.items():
            for row in rows:
                names, marks = ", ".join(map(quoted, row)), ", ".join("?" * len(row))
                values = [bytes.fromhex(one["hex"]) if isinstance(one, dict) else one for one in row.values()]
                connection.execute(f"insert or replace into {quoted(table)} ({names}) values ({marks})", values)
    connection.close()
    print(f"{len(kept)} tables filled")


def drop(question, files):
    """Take a module's own tables away, all of them or none."""
    connection = opened(question, files)
    connection.execute("begin")
    for table in question["tables"]:
        connection.execute(f"drop table {quoted(table)}")
    connection.execute("commit")
    connection.close()
    print(f"{len(question['tables'])} tables dropped")


def opened(question, files):
    import sqlite3

    from trytond import config

    config.update_etc(files)
    path = os.path.join(config.get("database", "path"), question["database"] + ".sqlite")
    connection = sqlite3.connect(path, isolation_level=None)
    connection.row_factory = sqlite3.Row
    return connection


def quoted(name):
    return '"' + name.replace('"', '""') + '"'


def packed(value):
    return {"hex": value.hex()} if isinstance(value, bytes) else str(value)


COMMANDS = {
    "admin": admin,
    "serve": serve,
    "deactivate": deactivate,
    "samples": samples,
    "save": save,
    "load": load,
    "drop": drop,
}
