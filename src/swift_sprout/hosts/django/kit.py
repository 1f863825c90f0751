"""The Django kit."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path

from ..kitdata import KitData, load_kit_data, recognised
from ..protocol import Host, HostOptions


class DjangoKit:
    """Recognises and opens Django projects."""

    @cached_property
    def data(self) -> KitData:
        """The kit's data."""
        return load_kit_data(Path(__file__).parent)

    def recognises(self, folder: Path) -> bool:
        """True when the folder holds an entry script that names the settings variable."""
        return recognised(Path(__file__).parent, folder)

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import DjangoHost

        return DjangoHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay site in an empty folder and fill its database."""
        from .demo import build

        return build(folder, self.data, options)


KIT = DjangoKit()
