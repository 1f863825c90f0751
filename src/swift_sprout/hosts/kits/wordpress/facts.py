"""``[wordpress]``: what this kit alone says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ...contract.kitdata import KitData


class FieldType(NamedTuple):
    """A type of field.

    example -- a value for the module's tests, as code
    """

    example: str


class Event(NamedTuple):
    """A neutral event on the host.

    hook  -- the hook that is called; `{record}` and `{module}` stand for names of them
    given -- the parameters of the listener
    tells -- what the made listener writes to the log, as code
    """

    hook: str
    given: str
    tells: str


class Header(NamedTuple):
    """The least versions that made modules say they need.

    least_host -- of the host
    least_php  -- of PHP
    """

    least_host: str
    least_php: str


class WordPressFacts(NamedTuple):
    """What the kit says.

    fields         -- the types of fields that modules carry
    events         -- what the neutral events are
    host_variables -- the variables that the host itself knows in rewrite rules
    php_words      -- words that no class can have as its name
    header         -- the least versions that made modules say they need
    locales        -- the host's names of languages that say a country as well
    """

    fields: Mapping[str, FieldType]
    events: Mapping[str, Event]
    host_variables: tuple[str, ...]
    php_words: tuple[str, ...]
    header: Header
    locales: Mapping[str, str]


def wordpress(data: KitData) -> WordPressFacts:
    """Return what this kit says beside what every kit says."""
    return data.section(WordPressFacts)
