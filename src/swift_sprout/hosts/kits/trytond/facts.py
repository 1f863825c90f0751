"""``[trytond]``: what this kit alone says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ...contract.kitdata import KitData


class FieldType(NamedTuple):
    """A type of field.

    field_class -- the class in ``trytond.model.fields``
    example     -- a value for the module's tests, as code
    arguments   -- of the class, with sizes in braces
    first       -- true where they come before the label
    wide        -- true where a form gives it a whole row
    """

    field_class: str
    example: str
    arguments: tuple[str, ...] = ()
    first: bool = False
    wide: bool = False


class Event(NamedTuple):
    """A neutral event on the host: a method that a module extends.

    method -- its name
    given  -- its parameters
    passed -- what is handed on to the extended method
    tells  -- what the made listener writes to the log: a format and its values, as code
    model  -- the host's model that has it; empty: the record that the listener names
    own    -- the module's own model that has it, in the place of both
    when   -- the condition under which it is the event; empty: always
    """

    method: str
    given: str
    passed: str
    tells: str
    model: str = ""
    own: str = ""
    when: str = ""


class TrytondFacts(NamedTuple):
    """What the kit says.

    fields -- the types of fields that modules carry
    events -- what the neutral events are
    """

    fields: Mapping[str, FieldType]
    events: Mapping[str, Event]


def trytond(data: KitData) -> TrytondFacts:
    """Return what this kit says beside what every kit says."""
    return data.section(TrytondFacts)
