"""What building the demo hosts shares: the made-up world's folder, and an interpreter that has the host."""

from __future__ import annotations

import shutil
from pathlib import Path

from ..core.errors import HostFailed, Refused
from ..running.interpreter import Interpreter, find_interpreter
from ..running.process import run
from .kitdata import KitData
from .kitfacts import PythonFacts
from .protocol import HostOptions

WORLD = Path(__file__).parent.parent / "demo_world"


def demo_interpreter(data: KitData, options: HostOptions) -> Interpreter:
    """Return an interpreter that has a kit's host; raises HostFailed when there is none."""
    python = data.section(PythonFacts)
    search = find_interpreter(options.runtime, Path.cwd(), python.package, python.environments)
    if search.found is None:
        raise HostFailed(
            "no-interpreter",
            f"The demo needs an interpreter with {data.title} {data.checked[-1]}.",
            f"Run `make demo HOST={data.id}`, which makes one, or name one with --runtime PATH.",
        )
    return search.found


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
