"""What every kit shares whose data lie in a folder; cheap to import, for every command asks every kit."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path

from ..contract.kitdata import KitData, load_kit_data
from ..contract.recognition import recognised


class FolderKit:
    """A kit of a folder: its data, and which hosts it knows by them."""

    def __init__(self, folder: Path, **sections: type) -> None:
        self.folder = folder
        self._sections = sections

    @cached_property
    def data(self) -> KitData:
        """The kit's data."""
        return load_kit_data(self.folder, **self._sections)

    def recognises(self, folder: Path) -> bool:
        """True when a folder is the root of a host of this kind."""
        return recognised(self.folder, folder)
