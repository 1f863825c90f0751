"""The Brindle Quay site on Django."""

from __future__ import annotations

import hashlib
import os
import shutil
from pathlib import Path

from ....running.scratch import scratch_folder
from ...contract.kit import HostOptions
from ...contract.kitdata import KitData
from ...python.interpreter import PythonFacts, demo_interpreter
from ...shared.demo import copy_world, demo_step

DATABASE = "brindle_quay.sqlite3"


def build(folder: Path, data: KitData, options: HostOptions) -> HostOptions:
    """Build the site and fill its database."""
    python = demo_interpreter(data, options)
    copy_world(data, folder)
    demo_step([str(python.path), "manage.py", "migrate", "--no-input", "-v", "0"], folder)
    return options._replace(runtime=str(python.path))


def build_with_kept_database(folder: Path, data: KitData, options: HostOptions) -> HostOptions:
    """Build a site whose database takes the host half a minute to make: it is made once for its version, and kept."""
    python = demo_interpreter(data, options)
    copy_world(data, folder)
    kept = _kept(data, python.distribution_version(data.section(PythonFacts).distribution) or "")
    if not kept.is_file():
        with scratch_folder() as fast:
            site = fast / "site"
            site.mkdir()
            copy_world(data, site)
            demo_step([str(python.path), "manage.py", "migrate", "--no-input", "-v", "0"], site)
            kept.parent.mkdir(parents=True, exist_ok=True)
            part = kept.with_suffix(f".{os.getpid()}")
            shutil.copy(site / DATABASE, part)
            part.replace(kept)
    shutil.copy(kept, folder / DATABASE)
    return options._replace(runtime=str(python.path))


def _kept(data: KitData, version: str) -> Path:
    """Return where the database of a host version is kept; other migrations of the demo site make another one."""
    told = hashlib.sha256()
    for kit_folder in data.folders:
        for path in sorted((kit_folder / "world").rglob("migrations/*.py")):
            told.update(path.read_bytes())
    cache = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    return cache / "swift-sprout" / "databases" / f"{data.id}-{version}-{told.hexdigest()[:12]}.sqlite3"
