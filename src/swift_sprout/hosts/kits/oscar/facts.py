"""``[oscar]``: what this kit alone says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ...contract.kitdata import KitData


class OscarFacts(NamedTuple):
    """What the kit says.

    middleware         -- middleware without which modules fail
    context_processors -- context processors without which the host's layout fails
    languages          -- addresses that the host's layout names
    navigation         -- the setting that holds the dashboard's menu
    hidden             -- the setting that hides features
    settings           -- what the names of the host's own settings begin with
    attributes         -- types of fields, with the type of a product's attribute that each becomes
    """

    middleware: tuple[str, ...]
    context_processors: tuple[str, ...]
    languages: str
    navigation: str
    hidden: str
    settings: str
    attributes: Mapping[str, str]


def oscar(data: KitData) -> OscarFacts:
    """Return what this kit says beside what every kit on Django says."""
    return data.section(OscarFacts)
