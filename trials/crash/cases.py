"""Hosts in the state in which each command is interrupted."""

from __future__ import annotations

import hashlib
import os
import subprocess
from pathlib import Path
from typing import NamedTuple

from swift_sprout.core.names import name_family
from swift_sprout.hosts.registry import kit_named
from swift_sprout.hosts.shared.demo import BRIEFS

from ..hosts import copy_host, runtime_options, trial
from ..places import PROGRAM
from .rows import add_rows

BRIEF = BRIEFS / "tide_board.toml"
NOT_COMPARED = frozenset({"__pycache__", "database", "data"})
PART = "Buoy: name text(40), lit yes/no"


class Case(NamedTuple):
    """A command to interrupt: its words, and whether it changes what the host keeps in its database."""

    name: str
    words: tuple[str, ...]
    needs_data: bool = False


def cases(kit: str) -> list[Case]:
    """Return the commands that write, as they are interrupted on a kit."""
    module = _module(kit)
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
    module = _module(kit)
    if case.name == "new":
        return
    _sprout(site, "new", "--brief", BRIEF)
    if case.name == "refresh":
        brief = next(site.rglob(f"{module}/sprout.toml"))
        brief.write_text(brief.read_text().replace("text(80)", "text(90)"))
    elif case.name == "undo":
        _sprout(site, "add", "record", PART, "--to", module)
    elif case.name in ("remove", "drop"):
        _sprout(site, "enable", module, *runtime_options(kit))
        if case.name == "drop":
            add_rows(kit, site)
        trial(kit).stop(site)


def _module(kit: str) -> str:
    """Return the tide board's internal name on a kit."""
    return name_family("Tide board").spellings()[kit_named(kit).data.facts.naming.spelling]


def _sprout(site: Path, *words: str | Path) -> None:
    subprocess.run([PROGRAM, *words, "--host", site, "-q"], check=True, stdout=subprocess.DEVNULL)


def tree_of(kit: str, site: Path) -> dict[str, bytes]:
    """Return what people write of a host: each file with its bytes; databases and byte code left out."""
    found = {}
    passed_by = {*NOT_COMPARED, *trial(kit).linked}
    for where, folders, names in os.walk(site):
        folders[:] = [name for name in folders if name not in passed_by]
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
    for path, content in sorted(tree_of(kit, site).items()):
        told.update(path.encode() + b"\0" + content + b"\0")
    told.update(trial(kit).state(site))
    return told.hexdigest()
