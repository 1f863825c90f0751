"""Hosts in the state in which each command is interrupted, and whether they still boot."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
from pathlib import Path
from typing import NamedTuple

from swift_sprout.hosts.contract.kit import HostOptions
from swift_sprout.hosts.kits.wordpress.database import own_server
from swift_sprout.hosts.registry import kit_named

from ..faults import DATABASES, LINKED
from ..measure import command
from ..places import FLOORS, INTERPRETERS, PROGRAM, WORLD
from .rows import fill

MODULE = {"wordpress": "tide-board"}
FOLDERS = {"trytond": "modules/tide_board", "wordpress": "wp-content/plugins/tide-board"}
BRIEF = WORLD / "tide_board.toml"
NOT_COMPARED = frozenset({"__pycache__", "database", "data", *LINKED})
PART = "Buoy: name text(40), lit yes/no"


class Case(NamedTuple):
    """A command to interrupt: its words, and whether it changes what the host keeps in its database."""

    name: str
    words: tuple[str, ...]
    needs_data: bool = False


def cases(kit: str) -> list[Case]:
    """Return the commands that write, as they are interrupted on a kit."""
    module = MODULE.get(kit, "tide_board")
    return [
        Case("new", ("new", "--brief", str(BRIEF))),
        Case("add", ("add", "record", PART, "--to", module)),
        Case("refresh", ("refresh", module)),
        Case("undo", ("undo",)),
        Case("enable", ("enable", module), True),
        Case("remove", ("remove", module, "--data", "keep"), True),
        Case("drop", ("remove", module, "--data", "drop"), True),
    ]


def prepare(kit: str, case: Case, demo: Path, site: Path) -> None:
    """Bring a copy of the demo host into the state in which a command is interrupted."""
    copy_host(kit, demo, site, case.needs_data)
    module = MODULE.get(kit, "tide_board")
    host = ("--host", site, "-q")
    if case.name == "new":
        return
    command([PROGRAM, "new", "--brief", BRIEF, *host])()
    if case.name == "refresh":
        brief = site / FOLDERS.get(kit, "tide_board") / "sprout.toml"
        brief.write_text(brief.read_text().replace("text(80)", "text(90)"))
    elif case.name == "undo":
        command([PROGRAM, "add", "record", PART, "--to", module, *host])()
    elif case.name in ("remove", "drop"):
        command([PROGRAM, "enable", module, *host, *runtime(kit)])()
        if case.name == "drop":
            fill(kit, site)
        stop_database(site)


def runtime(kit: str) -> tuple[str | Path, ...]:
    """Return the option that names what runs the host."""
    return () if kit == "wordpress" else ("--runtime", INTERPRETERS[kit])


def build_demo(kit: str, folder: Path) -> None:
    """Build the demo host of a kit, stopped."""
    kit_named(kit).build_demo(folder, HostOptions(str(INTERPRETERS[kit])))
    stop_database(folder)


def stop_database(site: Path) -> None:
    """End the database server of a host that has its own."""
    server = own_server(site)
    if server is not None:
        server.stop()


def copy_host(kit: str, source: Path, site: Path, with_data: bool) -> None:
    """Copy a host to another folder so that it works there; ``with_data`` its database server's files as well."""
    site.mkdir()
    passed_by = {"socket"}
    for entry in source.iterdir():
        if entry.name == "database" and not with_data:
            continue
        if not entry.is_dir():
            shutil.copy2(entry, site / entry.name)
            continue
        copy = os.link if entry.name in LINKED else shutil.copy2
        ignore = shutil.ignore_patterns(*passed_by, "__pycache__")
        shutil.copytree(entry, site / entry.name, copy_function=copy, ignore=ignore)
    if kit == "trytond":  # its configuration names folders by their whole paths
        configuration = site / "trytond.conf"
        configuration.write_text(configuration.read_text().replace(str(source), str(site)))


def tree_of(site: Path) -> dict[str, bytes]:
    """Return what people write of a host: each file with its bytes; databases, byte code and our own state left out."""
    found = {}
    for where, folders, names in os.walk(site):
        folders[:] = [name for name in folders if name not in NOT_COMPARED]
        for name in names:
            if not name.endswith((".sqlite3", ".sqlite3-journal", ".sqlite3-wal", ".sqlite3-shm", "debug.log")):
                path = os.path.join(where, name)
                with open(path, "rb") as handle:
                    found[os.path.relpath(path, site)] = handle.read()
        for name in folders if not names and not folders else ():
            found[os.path.join(where, name)] = b""
    return found


def state_of(kit: str, site: Path) -> str:
    """Return a digest of tree and database: hosts of one state boot alike."""
    told = hashlib.sha256()
    for path, content in sorted(tree_of(site).items()):
        told.update(path.encode() + b"\0" + content + b"\0")
    if kit in DATABASES and (site / DATABASES[kit]).exists():
        told.update((site / DATABASES[kit]).read_bytes())
    return told.hexdigest()


def boots(kit: str, site: Path) -> str:
    """Boot the host; returns what it says where it does not, else nothing."""
    if kit == "wordpress":
        return _boots_wordpress(site)
    python = INTERPRETERS[kit]
    known: dict[str, list[str | Path]] = {
        "flask": [python, "-c", "import wsgi"],
        "trytond": [python, FLOORS / "trytond_boot.py"],
    }
    words = known.get(kit, [python, "manage.py", "check"])
    ran = subprocess.run(words, cwd=site, capture_output=True, text=True)
    return "" if ran.returncode == 0 else (ran.stdout + ran.stderr)[-600:]


def _boots_wordpress(site: Path) -> str:
    server = own_server(site)
    if server is None or not (site / "database").is_dir():
        return ""  # the files alone were copied: they are those before or after, which both boot
    server.start(30)
    try:
        code = "$_SERVER['HTTP_HOST'] = 'localhost'; require 'wp-load.php'; echo 'loaded';"
        ran = subprocess.run(["php", "-r", code], cwd=site, capture_output=True, text=True)
        return "" if ran.stdout.endswith("loaded") else (ran.stdout + ran.stderr)[-600:]
    finally:
        server.stop()
