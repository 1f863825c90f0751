"""The trytond kit."""

from __future__ import annotations

from pathlib import Path

from ...contract.host import Host
from ...contract.kit import HostOptions
from ...python.interpreter import PythonFacts
from ...shared.folderkit import FolderKit
from .facts import TrytondFacts


class TrytondKit(FolderKit):
    """Recognises and opens folders that hold a trytond configuration."""

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import TrytondHost

        return TrytondHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay platform in an empty folder, with a database of its own."""
        from .demo import build

        return build(folder, self.data, options)


KIT = TrytondKit(Path(__file__).parent, python=PythonFacts, trytond=TrytondFacts)
