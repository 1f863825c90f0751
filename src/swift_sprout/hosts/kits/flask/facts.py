"""``[flask]``: what this kit alone says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ...contract.kitdata import KitData


class FieldType(NamedTuple):
    """A type of field.

    column  -- the type of its column
    example -- a value for the module's tests, as code
    """

    column: str
    example: str


class FlaskFacts(NamedTuple):
    """What the kit says.

    fields -- the types of fields that modules carry
    """

    fields: Mapping[str, FieldType]


def flask(data: KitData) -> FlaskFacts:
    """Return what this kit says beside what every kit says."""
    return data.section(FlaskFacts)
