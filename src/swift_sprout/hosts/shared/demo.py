"""What building the demo hosts shares: a kit's part of the made-up world, its briefs, and how a step is run."""

from __future__ import annotations

import shutil
from pathlib import Path

from ...core.errors import HostFailed, Refused
from ...running.process import run
from ..contract.kitdata import KitData

#  the modules that the demo makes on every kit; a kit brings further ones in its folder `briefs`
BRIEFS = Path(__file__).parent / "briefs"


def copy_world(data: KitData, folder: Path) -> None:
    """Copy a kit's part of the made-up world into an empty folder; raises Refused when it cannot be written.

    A kit that builds on another has that one's part as well, with its own laid over it.
    """
    left_out = shutil.ignore_patterns("__pycache__", "*.pyc")
    try:
        for kit_folder in reversed(data.folders):
            if (kit_folder / "world").is_dir():
                shutil.copytree(kit_folder / "world", folder, dirs_exist_ok=True, ignore=left_out)
    except OSError as error:
        raise Refused("cannot-write", f"Cannot build the host in {folder}: {error}.", "Name another folder.") from None


def brief_path(data: KitData, name: str) -> Path:
    """Return where a brief of the demo lies: in the kit's own folder, or among those of all kits."""
    own = data.folder / "briefs" / f"{name}.toml"
    return own if own.is_file() else BRIEFS / f"{name}.toml"


def demo_step(command: list[str], folder: Path, environment: dict[str, str] | None = None) -> None:
    """Run one step of building a demo host; raises HostFailed with the last line that it printed."""
    ended = run(command, folder, 180, environment)
    if ended.status != 0:
        lines = ended.output.strip().splitlines() or ["it printed nothing"]
        raise HostFailed("demo-site", f"The demo host does not start: {lines[-1]}", f"Look at its folder: {folder}")
