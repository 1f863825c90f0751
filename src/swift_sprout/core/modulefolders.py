"""The folders of a host in which modules lie."""

from __future__ import annotations

from typing import NamedTuple


class ModuleFolder(NamedTuple):
    """A folder where the host looks for modules.

    folder -- relative to the host's root, ``.`` for the root; prefix -- what comes before a module's name there
    why    -- how it is known
    """

    folder: str
    prefix: str
    why: str
