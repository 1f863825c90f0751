"""All kits that are known: those in this package's folders and those that installed packages bring."""

from __future__ import annotations

import os
import sys
from importlib import import_module
from pathlib import Path

from ..core.errors import WrongUse
from ..core.nearest import did_you_mean
from .kitdata import look_afresh
from .protocol import Kit

ENTRY_POINTS = "swift_sprout.kits"


def kits() -> dict[str, Kit]:
    """Return every known kit by its id, our own first; of our own the folder's name is the id, so none is read here."""
    found: dict[str, Kit] = {}
    here = Path(__file__).parent
    for folder in sorted(here.iterdir()):
        if (folder / "kit.toml").is_file():
            found[folder.name] = import_module(f"{__package__}.{folder.name}.kit").KIT
    if _packages_bring_kits():
        from importlib.metadata import entry_points

        for point in entry_points(group=ENTRY_POINTS):
            kit = point.load()
            found.setdefault(kit.data.id, kit)
    return found


def _packages_bring_kits() -> bool:
    """Look whether any installed package names the entry point; the reader of package metadata costs much to import."""
    for folder in filter(None, sys.path):
        try:
            names = os.listdir(folder)
        except OSError:
            continue
        for name in names:
            if name.endswith((".dist-info", ".egg-info")):
                try:
                    with open(os.path.join(folder, name, "entry_points.txt"), "rb") as handle:
                        if ENTRY_POINTS.encode() in handle.read():
                            return True
                except OSError:
                    continue
    return False


def kit_named(name: str) -> Kit:
    """Return the kit of an id; raises WrongUse naming the nearest."""
    known = kits()
    if name not in known:
        raise WrongUse("kit-unknown", f"--kit {name}: no such host kind.", did_you_mean(name, known))
    return known[name]


def recognise(start: Path, kit_name: str | None = None) -> tuple[Kit, Path] | None:
    """Return the kit and root of the nearest host at a folder or above it, or None."""
    look_afresh()
    candidates = [kit_named(kit_name)] if kit_name else list(kits().values())
    for folder in (start, *start.parents):
        found = [kit for kit in candidates if kit.recognises(folder)]
        if found:  # a kit that builds on another knows more of the host than that one
            return max(found, key=lambda kit: len(kit.data.ids)) if len(found) > 1 else found[0], folder
    return None
