"""How the demo host on Flask is tried out."""

from __future__ import annotations

from pathlib import Path

from .....disk.journal import Journal
from ....contract.kit import HostOptions
from ....shared.trial import BareBoot, Trial
from ..host import FlaskHost
from ..kit import KIT

BARE_BOOT = Path(__file__).parent / "bare_boot.py"


class FlaskTrial(Trial):
    """Its modules are registered by its factory."""

    brief = "tide_board"

    def boot_words(self, runtime: Path) -> list[str | Path]:
        """Import the entry point, as a server does."""
        return [runtime, "-c", "import wsgi"]

    def register_many(self, site: Path, names: list[str], runtime: Path) -> BareBoot:
        """Register modules in the factory, and make their tables."""
        host = FlaskHost(site, KIT.data, HostOptions(str(runtime)))
        journal = Journal(site, changed=host.look_again)
        with journal.writing("enable"):
            for name in names:
                journal.apply(host.switch_on(name, None).changes)
        host.settle(names)
        return BareBoot([runtime, BARE_BOOT], lambda name: f"/{name.replace('_', '-')}")


TRIAL = FlaskTrial()
