"""The django-oscar kit: it builds on the Django kit."""

from __future__ import annotations

from pathlib import Path

from ...contract.host import Host
from ...contract.kit import HostOptions
from ..django.kit import DjangoKit
from .facts import OscarFacts


class OscarKit(DjangoKit):
    """Recognises and opens Django projects that are a shop of django-oscar."""

    def open(self, root: Path, options: HostOptions) -> Host:
        """Return the host at a root."""
        from .host import OscarHost

        return OscarHost(root, self.data, options)

    def build_demo(self, folder: Path, options: HostOptions) -> HostOptions:
        """Build the Brindle Quay shop in an empty folder."""
        from ..django.demo import build_with_kept_database

        return build_with_kept_database(folder, self.data, options)


KIT = OscarKit(Path(__file__).parent, oscar=OscarFacts)
