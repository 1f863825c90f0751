"""All kits that are known: those in this package's folders and those that installed packages bring."""

from __future__ import annotations

import os
import sys
from importlib import import_module
from pathlib import Path

from ..core.errors import SproutError, WrongUse
from ..core.nearest import did_you_mean
from .contract.kit import Kit
from .contract.kitdata import ENTRY_POINTS
from .contract.recognition import look_afresh, recognised


def kits() -> dict[str, Kit]:
    """Return every known kit by its id, our own first."""
    found = {name: _own(name) for name in _own_names()}
    for name, kit in _brought()[0].items():
        found.setdefault(name, kit)
    return found


def unusable_kits() -> dict[str, SproutError]:
    """Return, by the names of their entry points, what is wrong with kits of packages that cannot be used."""
    return _brought()[1]


def _own_names() -> list[str]:
    """Return the ids of our own kits: the names of their folders."""
    here = os.path.join(os.path.dirname(__file__), "kits")
    return sorted(name for name in os.listdir(here) if os.path.isfile(f"{here}/{name}/kit.toml"))


def _own(name: str) -> Kit:
    kit: Kit = import_module(f"{__package__}.kits.{name}.kit").KIT
    return kit


def _brought() -> tuple[dict[str, Kit], dict[str, SproutError]]:
    """Return the kits that installed packages bring, and the errors of those that cannot be used."""
    found: dict[str, Kit] = {}
    unusable: dict[str, SproutError] = {}
    if _packages_bring_kits():
        from importlib.metadata import entry_points

        for point in entry_points(group=ENTRY_POINTS):
            try:
                kit = point.load()
                len(kit.data.rules)  # read now, so that what is wrong there is told here
                found.setdefault(kit.data.id, kit)
            except SproutError as error:
                unusable[point.name] = error
            except Exception as error:  # code of others: whatever it raises, the other kits still work
                reason = f"{type(error).__name__}: {error}"
                remedy = "Mend it, or take its package away."
                unusable[point.name] = WrongUse("kit-wrong", f"{point.value} cannot be loaded: {reason}.", remedy)
    return found, unusable


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
        if name in unusable_kits():
            raise unusable_kits()[name]
        raise WrongUse("kit-unknown", f"--kit {name}: no such host kind.", did_you_mean(name, known))
    return known[name]


def recognise(start: Path, kit_name: str | None = None) -> tuple[Kit, Path] | None:
    """Return the kit and root of the nearest host at a folder or above it, or None."""
    look_afresh()
    own = {} if kit_name else {name: Path(__file__).parent / "kits" / name for name in _own_names()}
    others = {kit_name: kit_named(kit_name)} if kit_name else _brought()[0]
    for folder in (start, *start.parents):
        #  our own are recognised by their data, so that the others need not be loaded
        found = [_own(name) for name, place in own.items() if recognised(place, folder)]
        found += [kit for name, kit in others.items() if name not in own and kit.recognises(folder)]
        if found:  # a kit that builds on another knows more of the host than that one
            return max(found, key=lambda kit: len(kit.data.ids)) if len(found) > 1 else found[0], folder
    return None
