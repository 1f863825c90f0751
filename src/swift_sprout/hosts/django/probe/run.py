"""Runs one console command of a Django host on copies of its SQLite databases, so that the real ones stay untouched.

Started in the host's folder with ENTRY COPIES COMMAND …; COPIES is the folder with the copies, made before.
"""

import os
import sys


def main():
    sys.path[0] = os.path.dirname(os.path.abspath(__file__))
    import ask

    entry, copies, words = sys.argv[3], sys.argv[4], sys.argv[5:]
    asking = ask.Ask({"entry": entry, "scratch": copies, "steps": []})
    asking.entry()
    from django.conf import settings

    for alias, database in settings.DATABASES.items():
        if not database.get("ENGINE", "").endswith("sqlite3"):
            print(f"the database {alias} is no SQLite file and cannot be copied", file=sys.stderr)
            os._exit(9)
        database["NAME"] = os.path.join(copies, f"{alias}.sqlite3")
    from django.core.management import execute_from_command_line

    execute_from_command_line([entry, *words])
