"""Where the program, the briefs of the demo and the installed hosts lie."""

from __future__ import annotations

import sys
from pathlib import Path

from swift_sprout.hosts.registry import kit_named
from swift_sprout.hosts.shared.demo import brief_path

from .recipes import KITS, newest_recipe

REPOSITORY = Path(__file__).parent.parent
PYTHON = Path(sys.executable)
PROGRAM = PYTHON.parent / "swift-sprout"
#  by the id of each kit: what runs its host, in the newest version
RUNTIMES = {kit: newest_recipe(kit).runtime for kit in KITS}


def brief_of(kit: str, name: str) -> Path:
    """Return a brief that the demo of a kit uses."""
    return brief_path(kit_named(kit).data, name)
