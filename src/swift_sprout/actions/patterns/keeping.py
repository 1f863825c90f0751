"""The patterns of a host and the modules that were made from each: ``pattern list``, ``show`` and ``drop``."""

from __future__ import annotations

from ...core.changes import ChangeSet
from ...core.errors import SproutError, WrongUse
from ...core.nearest import did_you_mean
from ...core.patterns import FOLDER
from ...core.patterns.origin import ORIGIN_FILE, Origin
from ...core.patterns.pattern import Pattern
from ...core.patterns.results import Dropped, Kept, Product
from ..hosting import OpenHost, carried_out
from .store import names, readable_patterns


def kept_patterns(opened: OpenHost) -> list[Kept]:
    """Return the patterns of a host, by name."""
    origins = dict(_origins(opened))
    found = []
    for name, read in readable_patterns(opened):
        pattern = read if isinstance(read, Pattern) else None
        state = pattern.state if pattern is not None else ""
        products = tuple(
            Product(module, origin.state != state) for module, origin in origins.items() if origin.pattern == name
        )
        found.append(Kept(name, pattern, None if isinstance(read, Pattern) else read, products))
    return found


def kept_pattern(opened: OpenHost, name: str) -> Kept:
    """Return one pattern of a host; raises WrongUse for one that is not there or is wrong."""
    for one in kept_patterns(opened):
        if one.name == name:
            if one.wrong is not None:
                raise one.wrong
            return one
    raise _unknown(opened, name)


def drop(opened: OpenHost, name: str, preview: bool) -> Dropped:
    """Take a pattern away, whatever is in its folder; its modules stay. Raises WrongUse for one that is not there."""
    return carried_out(opened, f"pattern drop {name}", lambda: _dropped(opened, name), preview)


def _dropped(opened: OpenHost, name: str) -> Dropped:
    if name not in names(opened.host.root):
        raise _unknown(opened, name)
    changes = ChangeSet(f"pattern drop {name}")
    root = opened.host.root
    for path in sorted((root / FOLDER / name).rglob("*")):
        if path.is_file() and not path.is_symlink():
            changes.add(path.relative_to(root).as_posix(), path.read_bytes(), None)
    products = tuple(one for kept in kept_patterns(opened) if kept.name == name for one in kept.products)
    return Dropped(name, products, changes)


def origin_of(opened: OpenHost, folder: str) -> Origin | None:
    """Return where the module in a folder comes from; None where no pattern made it, Refused where that is broken."""
    path = opened.host.root / folder / ORIGIN_FILE
    return Origin.read(path.read_bytes(), f"{folder}/{ORIGIN_FILE}") if path.is_file() else None


def _origins(opened: OpenHost) -> list[tuple[str, Origin]]:
    found = []
    for module in opened.host.modules():
        try:
            origin = origin_of(opened, module.folder)
        except SproutError:
            continue  # `refresh --pattern` tells of it
        if origin is not None:
            found.append((module.name, origin))
    return found


def _unknown(opened: OpenHost, name: str) -> WrongUse:
    known = names(opened.host.root)
    remedy = did_you_mean(name, known) if known else "Take one: swift-sprout pattern take MODULE --as NAME"
    return WrongUse("pattern-unknown", f"This host has no pattern {name!r}.", remedy)
