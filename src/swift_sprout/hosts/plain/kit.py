"""What opens a host that no kit knows; it is asked for by name alone, and recognises nothing by itself."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ...core.errors import Refused
from ..shared.folderkit import FolderKit

if TYPE_CHECKING:
    from ..contract.host import Host
    from ..contract.kit import HostOptions


class PlainKit(FolderKit):
    """Opens a root whose modules are the folders of one place."""

    def __init__(self, place: str) -> None:
        super().__init__(Path(__file__).parent)
        self.place = place

    def recognises(self, folder: Path) -> bool:
        """Return False: a person says that a folder is one."""
        return False

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import PlainHost

        return PlainHost(root, self.data, options, self.place)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Refuse: there is no demo of a host that nobody knows."""
        raise Refused("no-demo", "A host that no kit knows has no demo.", "Try --kit django.")
