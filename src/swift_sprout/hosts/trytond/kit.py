"""The trytond kit."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path

from ..kitdata import KitData, load_kit_data, recognised
from ..protocol import Host, HostOptions


class TrytondKit:
    """Recognises and opens folders that hold a trytond configuration."""

    @cached_property
    def data(self) -> KitData:
        """The kit's data."""
        return load_kit_data(Path(__file__).parent)

    def recognises(self, folder: Path) -> bool:
        """True when the folder holds a configuration that names a database."""
        return recognised(Path(__file__).parent, folder)

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import TrytondHost

        return TrytondHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay platform in an empty folder, with a database of its own."""
        from .demo import build

        return build(folder, self.data, options)


KIT = TrytondKit()
