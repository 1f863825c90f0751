"""The Wagtail kit: it builds on the Django kit."""

from __future__ import annotations

from pathlib import Path

from ...contract.host import Host
from ...contract.kit import HostOptions
from ..django.kit import DjangoKit
from .facts import WagtailFacts


class WagtailKit(DjangoKit):
    """Recognises and opens Django projects that have Wagtail."""

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import WagtailHost

        return WagtailHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay content site in an empty folder, with its front page in the tree of pages."""
        from ..django.demo import build_with_kept_database

        return build_with_kept_database(folder, self.data, options)


KIT = WagtailKit(Path(__file__).parent, wagtail=WagtailFacts)
