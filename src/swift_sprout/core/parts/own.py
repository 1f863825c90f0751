"""Kinds of parts that one kit alone knows: what its ``kit.toml`` says of them, made into kinds like all others."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, Any, Literal, NamedTuple

from .kinds import Contradiction, Kind
from .lines import read_line

if TYPE_CHECKING:
    from ..brief import Brief


class OwnKind(NamedTuple):
    """A kind of part of a kit's own.

    keys    -- its keys, each with the sort of value
    needed  -- the keys without which it means nothing; the first tells one part from another
    rest    -- the key that takes what stands behind the colon when a part is said in one line
    example -- a part in one line
    """

    keys: Mapping[str, Literal["text", "list", "number", "yes/no", "table", "rows"]]
    needed: tuple[str, ...]
    example: str
    rest: str = ""


class OwnPart:
    """A part of a kit's own kind; ``values`` are those of its keys."""

    def __init__(self, kind: str, key: str, values: Mapping[str, Any]) -> None:
        self.kind = kind
        self.key = key
        self.values = dict(values)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, OwnPart) and (self.kind, self.values) == (other.kind, other.values)

    __hash__ = None  # type: ignore[assignment]


def kind_of(name: str, own: OwnKind) -> Kind:
    """Return the kind that a kit says."""

    def make(entry: dict[str, Any]) -> OwnPart:
        return OwnPart(name, str(entry[own.needed[0]]), entry)

    def data(part: OwnPart) -> dict[str, Any]:
        return dict(part.values)

    def against(part: OwnPart, brief: Brief) -> Iterator[Contradiction]:
        return iter(())

    def from_line(text: str) -> dict[str, Any]:
        return read_line(name, own.needed[0], own.rest, dict(own.keys), text)

    return Kind(name, dict(own.keys), own.needed, make, data, against, own.example, from_line)
