"""What hosts of a kind refuse that others can do, said once."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import Refused

if TYPE_CHECKING:
    from ..core.contents import PutContent, TakenContent
    from .kitdata import KitData


class WithoutContent:
    """A host whose kit reads and writes no content of modules."""

    data: KitData

    def take_content(self, module: str) -> TakenContent:
        """Refuse: the kit reads no content."""
        raise Refused("no-content", f"The {self.data.title} kit takes no content.", "Use the host's own export.")

    def put_content(self, module: str, folder: Path, keep: bool) -> PutContent:
        """Refuse: the kit writes no content."""
        raise Refused("no-content", f"The {self.data.title} kit puts no content.", "Use the host's own import.")
