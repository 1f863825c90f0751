"""The Django kit."""

from __future__ import annotations

from pathlib import Path

from ...contract.host import Host
from ...contract.kit import HostOptions
from ...python.interpreter import PythonFacts
from ...shared.folderkit import FolderKit
from .facts import DjangoFacts


class DjangoKit(FolderKit):
    """Recognises and opens Django projects."""

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import DjangoHost

        return DjangoHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay site in an empty folder and fill its database."""
        from .demo import build

        return build(folder, self.data, options)


KIT = DjangoKit(Path(__file__).parent, python=PythonFacts, django=DjangoFacts)
