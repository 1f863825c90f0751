"""The user's cache folder: what is kept there is for this user alone, and may be deleted at any time."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

MOST_KEPT = 60


class CacheFolder:
    """Where the documents of one name lie; there is room for the names that were written to last."""

    def __init__(self, name: str) -> None:
        self.folder = cache_folder() / name

    def read(self, name: str) -> dict[str, Any] | None:
        """Return a document; None where there is none that can be read."""
        try:
            found = json.loads((self.folder / name).read_text("utf-8"))
        except (OSError, ValueError, RecursionError):
            return None
        return found if isinstance(found, dict) else None

    def write(self, name: str, document: dict[str, Any]) -> None:
        """Write a document; where that cannot be, it is not kept."""
        try:
            self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            part = self.folder / f"{name}.{os.getpid()}"
            descriptor = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC | os.O_NOFOLLOW | os.O_CLOEXEC, 0o600)
            with os.fdopen(descriptor, "w", encoding="utf-8") as handle:
                json.dump(document, handle)
            os.replace(part, self.folder / name)
            _forget_oldest(self.folder.parent)
        except OSError:
            return


def cache_folder() -> Path:
    """Return the folder in which there is one for each name."""
    said = os.environ.get("XDG_CACHE_HOME", "")
    base = Path(said) if os.path.isabs(said) else Path.home() / ".cache"
    return base / "swift-sprout" / "checks"


def _forget_oldest(folder: Path) -> None:
    """Drop what was written to longest ago, so that the folder never grows large."""
    from shutil import rmtree

    kept = sorted(folder.iterdir(), key=lambda one: one.stat().st_mtime, reverse=True)
    for one in kept[MOST_KEPT:]:
        rmtree(one, ignore_errors=True)
