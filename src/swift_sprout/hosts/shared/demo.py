"""What building the demo hosts shares: the made-up world's folder, and how a step is run."""

from __future__ import annotations

import shutil
from pathlib import Path

from ...core.errors import HostFailed, Refused
from ...running.process import run
from ..contract.kitdata import KitData

WORLD = Path(__file__).parent.parent.parent / "demo_world"


def copy_world(data: KitData, folder: Path) -> None:
    """Copy a kit's part of the made-up world into an empty folder; raises Refused when it cannot be written.

    A kit that builds on another has that one's part as well, with its own laid over it.
    """
    left_out = shutil.ignore_patterns("__pycache__", "*.pyc")
    try:
        for name in reversed(data.ids):
            shutil.copytree(WORLD / name, folder, dirs_exist_ok=True, ignore=left_out)
    except OSError as error:
        raise Refused("cannot-write", f"Cannot build the host in {folder}: {error}.", "Name another folder.") from None


def demo_step(command: list[str], folder: Path, environment: dict[str, str] | None = None) -> None:
    """Run one step of building a demo host; raises HostFailed with the last line that it printed."""
    ended = run(command, folder, 180, environment)
    if ended.status != 0:
        lines = ended.output.strip().splitlines() or ["it printed nothing"]
        raise HostFailed("demo-site", f"The demo host does not start: {lines[-1]}", f"Look at its folder: {folder}")
