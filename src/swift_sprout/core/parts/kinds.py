"""What a kind of part is: the keys that a brief says it with, and how data becomes a checked value and data again."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cache
from importlib import import_module
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..nearest import did_you_mean

if TYPE_CHECKING:
    from ..brief import Brief

#  the kinds in the order in which a brief tells them, each with the attribute of the brief and the file that knows it
KINDS: dict[str, tuple[str, str]] = {
    "record": ("records", "records"),
    "permission": ("permissions", "rights"),
    "group": ("groups", "rights"),
    "page": ("pages", "pages"),
    "page_type": ("page_types", "pagetypes"),
    "staff_screen": ("staff_screens", "screens"),
    "endpoint": ("endpoints", "pages"),
    "menu": ("menu", "placing"),
    "block": ("blocks", "placing"),
    "placement": ("placements", "placing"),
    "command": ("commands", "programs"),
    "service": ("services", "programs"),
    "listener": ("listeners", "programs"),
    "setting": ("settings", "contents"),
    "product_kind": ("product_kinds", "commerce"),
    "shipping_method": ("shipping_methods", "commerce"),
    "price_rule": ("price_rules", "commerce"),
    "extension": ("extensions", "screens"),
    "sample": ("samples", "contents"),
    "translation": ("translations", "contents"),
    "asset": ("assets", "contents"),
}


OWN_PARTS = "own_parts"  # the attribute of a brief that holds the parts of kits' own kinds
_own: dict[str, Kind] = {}


class Contradiction(NamedTuple):
    """What is wrong with a part beside the others: the key, what is wrong, and what to do."""

    key: str
    what: str
    remedy: str


class Kind(NamedTuple):
    """One kind of part.

    shape    -- its keys, each with the sort of value: ``text``, ``list`` (of text), ``number``, ``yes/no``, ``table``
                (text to text) or ``rows`` (a list of tables)
    needed   -- the keys without which it means nothing
    make     -- makes the part of its data; raises WrongUse
    data     -- the data that makes the part again, without what is as it would be anyway
    against  -- yields what contradicts the rest of the brief
    example  -- the part as one line of the command line
    from_line -- reads that line into data
    """

    name: str
    shape: dict[str, str]
    needed: tuple[str, ...]
    make: Callable[[dict[str, Any]], Any]
    data: Callable[[Any], dict[str, Any]]
    against: Callable[[Any, Brief], Iterable[Contradiction]]
    example: str
    from_line: Callable[[str], dict[str, Any]]


def add_kind(kind: Kind) -> None:
    """Make a kind of a kit's own known; raises WrongUse where its name means another kind already."""
    known = _own.get(kind.name)
    if kind.name in KINDS if known is None else known.shape != kind.shape:
        raise WrongUse("part-taken", f"There is a part {kind.name!r} already, with other keys.", "Name it otherwise.")
    _own[kind.name] = kind
    KINDS[kind.name] = (OWN_PARTS, "own")


def kind_named(name: str) -> Kind:
    """Return a kind by its name; raises WrongUse naming the nearest."""
    return _own[name] if name in _own else _common(name)


@cache
def _common(name: str) -> Kind:
    if name not in KINDS:
        raise WrongUse("part-unknown", f"There is no part {name!r}.", did_you_mean(name, KINDS))
    module = import_module(f"{__package__}.{KINDS[name][1]}")
    kind: Kind = module.MAKES[name]
    return kind


def no_record(brief: Brief, key: str, name: str, who: str) -> Iterator[Contradiction]:
    """Yield the contradiction of a part that names a record which the module does not have."""
    if name and brief.record(name) is None:
        own = [record.name.title for record in brief.records]
        yield Contradiction(
            key, f"{who} names the record {name!r}, which this module does not have", did_you_mean(name, own)
        )
