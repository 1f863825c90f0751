"""``[wagtail]``: what this kit alone says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ...contract.kitdata import KitData


class WagtailFacts(NamedTuple):
    """What the kit says.

    hooks                -- the hooks that the host calls
    hooks_since          -- those that not all checked versions call, with the range of versions
    hooks_file           -- the file in which the host looks for hooks
    hooks_without_answer -- hooks that are asked for nothing
    contrib              -- apps of the host that bring screens or scripts only where they are listed
    library              -- settings that name the types of pictures and documents, each with the usual type
    """

    hooks: tuple[str, ...]
    hooks_since: Mapping[str, str]
    hooks_file: str
    hooks_without_answer: tuple[str, ...]
    contrib: tuple[str, ...]
    library: Mapping[str, str]


def wagtail(data: KitData) -> WagtailFacts:
    """Return what this kit says beside what every kit on Django says."""
    return data.section(WagtailFacts)
