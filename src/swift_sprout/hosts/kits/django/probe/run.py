"""Runs console commands of a Django host, one after the other in one start of it, up to the first that fails.

Started in the host's folder with ENTRY COPIES COMMANDS: COPIES is a folder with copies of its SQLite databases, which
then stand for the real ones, or empty; COMMANDS is a JSON list of lists of words. Writes a JSON line for each command.
"""

import io
import json
import os
import runpy
import sys
import traceback

#  a failure after which the others are run all the same: a module of which the host sees no migrations yet
HARMLESS = "does not have migrations"


def main():
    sys.path[0] = os.path.dirname(os.path.abspath(__file__))
    entry, copies, commands = sys.argv[3], sys.argv[4], json.loads(sys.argv[5])
    told = os.fdopen(os.dup(1), "w", encoding="utf-8")
    execute = on_copies(entry, copies) if copies else by_its_entry(entry)
    for words in commands:
        written = io.StringIO()
        sys.stdout = sys.stderr = written
        status = carried_out(execute, words)
        output = written.getvalue()
        print(json.dumps({"status": status, "output": output}), file=told, flush=True)
        if status and HARMLESS not in output:
            break
    os._exit(0)


def carried_out(execute, words):
    """Run one command and return its exit status; what it raises is written as the host's entry script would."""
    try:
        execute(words)
    except SystemExit as ended:
        if isinstance(ended.code, str):
            print(ended.code)
            return 1
        return ended.code or 0
    except BaseException:
        traceback.print_exc()
        return 1
    return 0


def by_its_entry(entry):
    """Return what runs a command by the host's own entry script."""
    sys.path[0] = os.getcwd()

    def execute(words):
        sys.argv = [entry, *words]
        runpy.run_path(entry, run_name="__main__")

    return execute


def on_copies(entry, copies):
    """Return what runs a command with copies in the place of the databases; ends at once where one is no file."""
    import ask

    ask.Ask({"entry": entry, "scratch": copies, "steps": []}).entry()
    from django.conf import settings

    for alias, database in settings.DATABASES.items():
        if not database.get("ENGINE", "").endswith("sqlite3"):
            print(f"the database {alias} is no SQLite file and cannot be copied", file=sys.stderr)
            os._exit(9)
        database["NAME"] = os.path.join(copies, f"{alias}.sqlite3")
    from django.core.management import execute_from_command_line

    return lambda words: execute_from_command_line([entry, *words])
