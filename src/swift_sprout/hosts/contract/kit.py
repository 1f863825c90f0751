"""What a kit is to the rest of the program: it knows hosts of one kind, and opens them."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, NamedTuple, Protocol

if TYPE_CHECKING:
    from pathlib import Path

    from ...caching.rests_on import RestsOn
    from .host import Host
    from .kitdata import KitData


#  keeps what was worked out of files from one run to the next: the question, what its answer rests on, and the work
Remember = Callable[[str, "RestsOn", Callable[[], Any]], Any]


def at_once(question: str, rests_on: RestsOn, work: Callable[[], Any]) -> Any:
    """Do the work, and keep nothing of it."""
    return work()


class HostOptions(NamedTuple):
    """How to work on a host.

    runtime       -- the interpreter or program that was given for it
    limit_seconds -- the time that a host may take to answer
    remember      -- what keeps the answers to questions about files
    """

    runtime: str | None = None
    limit_seconds: float = 60.0
    remember: Remember = at_once


class Kit(Protocol):
    """All we know of one host kind."""

    @property
    def data(self) -> KitData:
        """What the kit says."""

    def recognises(self, folder: Path) -> bool:
        """True when a folder is the root of a host of this kind."""

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the kit's Brindle Quay host in an empty folder, ready to be worked on.

        Returns how to work on it: the options with the interpreter that was found. Raises HostFailed where it cannot
        be built here, and Refused when the kit has no demo.
        """
