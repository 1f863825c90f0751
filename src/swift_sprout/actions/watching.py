"""Waiting for files of a host to be saved."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from pathlib import Path

from ..hosts.contract.kitfacts import Sources

EVERY_SECONDS = 0.25


def changes_of(root: Path, sources: Sources) -> Iterator[str]:
    """Yield once at first, then the path of a file whenever one is saved, made or removed; never ends by itself.

    sources -- which files count
    """
    before = _times(root, sources)
    yield ""
    while True:
        time.sleep(EVERY_SECONDS)
        now = _times(root, sources)
        if now != before:
            changed = sorted(path for path in {*now, *before} if now.get(path) != before.get(path))
            before = now
            yield os.path.relpath(changed[0], root)


def _times(root: Path, sources: Sources) -> dict[str, int]:
    found: dict[str, int] = {}
    endings, skipped = sources.endings, sources.skipped
    folders = [str(root)]
    while folders:
        try:
            entries = list(os.scandir(folders.pop()))
        except OSError:
            continue
        for entry in entries:
            if entry.name.startswith(".") or entry.name in skipped:
                continue
            if entry.is_dir(follow_symlinks=False):
                if not os.path.exists(os.path.join(entry.path, "pyvenv.cfg")):
                    folders.append(entry.path)
            elif entry.name.endswith(endings):
                found[entry.path] = entry.stat().st_mtime_ns
    return found
