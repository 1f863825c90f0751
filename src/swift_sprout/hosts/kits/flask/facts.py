"""``[flask]``: what this kit alone says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ...contract.kitdata import KitData


class MappedType(NamedTuple):
    """A type of field where the site has an object mapper.

    annotation -- its type in Python
    column     -- its type in the database, as SQLAlchemy spells it, with ``{length}``, ``{digits}`` and ``{places}``
    example    -- a value for the module's tests, as code
    item       -- how a JSON answer is given it, with ``{value}``
    form       -- the class of its field in a form; empty where forms have none
    """

    annotation: str
    column: str
    example: str
    item: str = "{value}"
    form: str = ""


class FieldType(NamedTuple):
    """A type of field.

    column  -- the type of its column
    example -- a value for the module's tests, as code
    mapped  -- the same for sites with an object mapper
    """

    column: str
    example: str
    mapped: MappedType


class FlaskFacts(NamedTuple):
    """What the kit says.

    fields -- the types of fields that modules carry
    """

    fields: Mapping[str, FieldType]


def flask(data: KitData) -> FlaskFacts:
    """Return what this kit says beside what every kit says."""
    return data.section(FlaskFacts)
