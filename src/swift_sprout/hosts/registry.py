"""All kits that are known: those in this package's folders and those that installed packages bring."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterable
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
                remedy = "Fix it, or take its package away."
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


MOST_FOLDERS = 500
DEEPEST = 3
_REPOSITORY = (".git", ".hg", ".svn")
_NO_SOURCES = frozenset({"node_modules", "__pycache__", "site-packages", "vendor", "dist", "build"})


def recognise_below(start: Path, kit_name: str | None = None) -> list[tuple[Kit, Path]]:
    """Return the hosts in a folder's folders, to a depth of DEEPEST: a project keeps its host beside other things.

    Nothing is looked for within a host, an environment, or what tools make.
    """
    found: list[tuple[Kit, Path]] = []
    level, left, known = [start], MOST_FOLDERS, _known(kit_name)
    for _ in range(DEEPEST):
        below: list[Path] = []
        for folder in level:
            below += _folders(folder) if len(below) < left else []
        below = below[:left]
        left -= len(below)
        hosts = {folder: kit for folder in below if (kit := _recognised_in(folder, known)) is not None}
        found += [(kit, folder) for folder, kit in hosts.items()]
        level = [folder for folder in below if folder not in hosts]
    return found


def _folders(folder: Path) -> list[Path]:
    """Return the folders in a folder that may hold sources; links are not followed."""
    try:
        entries = sorted(entry.name for entry in os.scandir(folder) if entry.is_dir(follow_symlinks=False))
    except OSError:
        return []
    names = [name for name in entries if name[0] != "." and name not in _NO_SOURCES]
    return [folder / name for name in names if not os.path.exists(folder / name / "pyvenv.cfg")]


def recognise(folders: Iterable[Path], kit_name: str | None = None) -> tuple[Kit, Path] | None:
    """Return the kit and root of the first of some folders that is a host, or None."""
    look_afresh()
    known = _known(kit_name)
    for folder in folders:
        kit = _recognised_in(folder, known)
        if kit is not None:
            return kit, folder
    return None


def is_repository(folder: Path) -> bool:
    """True for the root of a repository."""
    return any((folder / one).exists() for one in _REPOSITORY)


def around(start: Path) -> tuple[list[Path], list[Path]]:
    """Return a folder and those above it: of the same project, and further up.

    A project ends with its repository. A person's own folder belongs to none: what lies there by chance, such as a
    first try of some host, is no host of all that is below. Above it nothing is looked at.
    """
    above = [start, *start.parents]
    home = Path(os.path.expanduser("~"))  # as it is spelled, where the system knows of none
    if home in above:
        above = above[: above.index(home) + 1]
    ends = (at + 1 for at, folder in enumerate(above) if is_repository(folder))
    within = next(ends, len(above) - 1 if above[-1] == home != start else len(above))
    return above[:within], above[within:]


#  our own kits by their folders, so that those that do not fit need not be loaded, and the others
_Known = tuple[dict[str, Path], dict[str, Kit]]


def _known(kit_name: str | None) -> _Known:
    """Return the kits that are looked for: all, or one."""
    if kit_name:
        return {}, {kit_name: kit_named(kit_name)}
    own = {name: Path(__file__).parent / "kits" / name for name in _own_names()}
    return own, {name: kit for name, kit in _brought()[0].items() if name not in own}


def _recognised_in(folder: Path, known: _Known) -> Kit | None:
    """Return the kit of the host whose root a folder is; None for no host."""
    own, others = known
    fitting = [_own(name) for name, place in own.items() if recognised(place, folder)]
    found = [kit for kit in fitting if kit.recognises(folder)]
    found += [kit for kit in others.values() if kit.recognises(folder)]
    #  a kit that builds on another knows more of the host than that one
    return max(found, key=lambda kit: len(kit.data.ids)) if found else None
