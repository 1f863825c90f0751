"""The Brindle Quay site on Django."""

from __future__ import annotations

from pathlib import Path

from ..demo import copy_world, demo_interpreter, demo_step
from ..kitdata import KitData
from ..protocol import HostOptions


def build(folder: Path, data: KitData, options: HostOptions) -> HostOptions:
    """Build the site and fill its database."""
    python = demo_interpreter(data, options)
    copy_world(data, folder)
    demo_step([str(python.path), "manage.py", "migrate", "--no-input", "-v", "0"], folder)
    return options._replace(runtime=str(python.path))
