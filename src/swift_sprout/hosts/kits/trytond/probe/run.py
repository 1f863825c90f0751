"""Runs one command of trytond with the host's modules on the import path, on its own databases or on copies.

Started in the host's folder with a JSON object as its third argument:

    {"command": "admin" | "serve" | "deactivate" | "samples" | "save" | "load" | "drop" | "carry",
     "configuration": "trytond.conf", "database": "…",
     "databases": "", "python_path": ["modules"], "words": [], "port": 0, "modules": [], "rows_file": "",
     "names": {}, "held": [], "whole": false}
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


#  columns of the host's own tables in which a bare word names a module (its 8.2)
MODULES = {"ir_module.name", "ir_module_dependency.name"}
#  columns of the host's own tables in which people's texts stand, not names (its 8.2)
TEXTS = {"src", "value", "text", "message", "description", "comment", "help", "content", "domain_help"}


def carry(question, files):
    """Give what the database keeps of a module the names that changed in its files: rows of the host, and tables."""
    import re

    connection = opened(question, files)
    names = sorted(question["names"].items(), key=lambda one: -len(one[0]))
    beside = "A-Za-z0-9_-" if question["whole"] else "A-Za-z0-9"
    ends = {old: "" if old.endswith(("_", "-")) else f"(?![{beside}])" for old, _ in names}
    #  a bare word may as well be a field or a model: it is the module's where a name below it follows
    ends |= {old: r"(?=\.)" for old, _ in names if question["whole"] and old.isalnum()}
    #  in one go: a new name may hold an old one
    pattern = re.compile(rf"(?<![{beside}])(?:" + "|".join(f"({re.escape(old)}{ends[old]})" for old, _ in names) + ")")

    def renamed(text, names_module=False):
        if names_module and text in question["names"]:
            return question["names"][text]
        if any(other in text for other in question["held"]):
            return text  # another module's, whose name holds this one's
        return pattern.sub(lambda found: names[found.lastindex - 1][1], text)

    rows = tables = 0
    connection.execute("begin")
    models = {one: renamed(one) for one in models_in(connection)}
    moved = {one.replace(".", "_"): new.replace(".", "_") for one, new in models.items() if one != new}
    moved |= {f"{one}__history": f"{new}__history" for one, new in moved.items()}
    for table in [row[0] for row in connection.execute("select name from sqlite_master where type = 'table'")]:
        own = table.startswith(("ir_", "res_"))
        for column in [row[1] for row in connection.execute(f"pragma table_info({quoted(table)})")]:
            if own and column in TEXTS:
                continue
            done = set()  # a row may hold several names
            for old in question["names"]:
                found = connection.execute(
                    f"select rowid, {quoted(column)} from {quoted(table)} where typeof({quoted(column)}) = 'text'"
                    f" and instr({quoted(column)}, ?)",
                    (old,),
                ).fetchall()
                for number, text in found:
                    if number in done or (not own and not re.fullmatch(r"[\w.-]+,-?\d+", text)):
                        continue  # elsewhere only what refers to a row names a model
                    done.add(number)
                    now = renamed(text, own and (column.endswith("module") or f"{table}.{column}" in MODULES))
                    if now != text:
                        rows += 1
                        connection.execute(
                            f"update {quoted(table)} set {quoted(column)} = ? where rowid = ?", (now, number)
                        )
        if table in moved:
            tables += 1
            connection.execute(f"alter table {quoted(table)} rename to {quoted(moved[table])}")
    connection.execute("commit")
    connection.close()
    print(f"{tables} table{'' if tables == 1 else 's'}, {rows} row{'' if rows == 1 else 's'}")


def models_in(connection):
    """Return the names of the models that the database knows; the column of the name has changed with the host."""
    columns = {row[1] for row in connection.execute("pragma table_info(ir_model)")}
    column = "model" if "model" in columns else "name"
    return [row[0] for row in connection.execute(f"select {column} from ir_model") if row[0]]


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
    "carry": carry,
}
