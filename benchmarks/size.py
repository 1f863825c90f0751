"""What an installation takes on the disk."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

from trials.places import REPOSITORY

from .measure import Row, command


def installed(folder: Path) -> Iterator[Row]:
    """The installed size in megabytes, with what it needs, without hosts."""
    packages = folder / "installed"
    command([sys.executable, "-m", "pip", "install", "-q", "--target", packages, REPOSITORY])()
    megabytes = sum(path.stat().st_size for path in packages.rglob("*") if path.is_file()) / 1e6
    yield Row("installed size in MB / 1 MB", megabytes, 1.0, 40, 0.0, "MB")
