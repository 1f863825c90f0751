"""How the demo host on trytond is tried out."""

from __future__ import annotations

from pathlib import Path

from ....shared.trial import BareBoot, Trial, run_step

BARE_BOOT = Path(__file__).parent / "bare_boot.py"
DATABASE = "brindle_quay"


class TrytondTrial(Trial):
    """Its modules are known by entry points, and activated in its database."""

    database = f"data/{DATABASE}.sqlite"
    page_address = "/"  # below the module's own address

    def relocate(self, site: Path, old: Path) -> None:
        """Its configuration names folders by their whole paths."""
        configuration = site / "trytond.conf"
        configuration.write_text(configuration.read_text("utf-8").replace(str(old), str(site)), "utf-8")

    def boot_words(self, runtime: Path) -> list[str | Path]:
        """Load its pool."""
        return [runtime, BARE_BOOT]

    def register_many(self, site: Path, names: list[str], runtime: Path) -> BareBoot:
        """Write the entry points, and activate the modules with the host's own command."""
        for name in names:
            points = site / "modules" / f"{name}-0.1.0.dist-info"
            points.mkdir()
            (points / "METADATA").write_text(f"Metadata-Version: 2.1\nName: {name}\nVersion: 0.1.0\n")
            (points / "entry_points.txt").write_text(f"[trytond.modules]\n{name} = {name}\n")
        admin = (runtime.parent / "trytond-admin", "-c", "trytond.conf", "-d", DATABASE, "-m", "-u")
        run_step(["env", "PYTHONPATH=modules", *admin, *names], site)
        return BareBoot([runtime, BARE_BOOT], lambda name: f"/{DATABASE}/r/{name}")


TRIAL = TrytondTrial()
