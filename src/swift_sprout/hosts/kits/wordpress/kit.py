"""The WordPress kit."""

from __future__ import annotations

from pathlib import Path

from ...contract.host import Host
from ...contract.kit import HostOptions
from ...shared.folderkit import FolderKit
from .facts import WordPressFacts


class WordPressKit(FolderKit):
    """Recognises and opens folders that hold the host's files."""

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import WordPressHost

        return WordPressHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay site in an empty folder, with a database server of its own."""
        from .demo import build

        return build(folder, self.data, options)


KIT = WordPressKit(Path(__file__).parent, wordpress=WordPressFacts)
