"""How the demo host on Django is tried out."""

from __future__ import annotations

from pathlib import Path

from ....shared.trial import BareBoot, Trial, run_step

BARE_BOOT = Path(__file__).parent / "bare_boot.py"
FERRIES = '    path("ferries/", include("ferries.urls")),\n'


class DjangoTrial(Trial):
    """How it is tried out, and how hosts that build on it are.

    include        -- the line of the root addresses that takes a module in
    include_before -- the line before which such lines stand
    """

    include = '    path("", include("{name}.urls")),\n'
    include_before = FERRIES

    def boot_words(self, runtime: Path) -> list[str | Path]:
        """The host's own checks."""
        return [runtime, "manage.py", "check"]

    def list_modules(self, site: Path, names: list[str]) -> None:
        """List modules in the settings and take their addresses in, as somebody would in an editor."""
        entries = "".join(f'    "{name}",\n' for name in names)
        includes = "".join(self.include.format(name=name) for name in names)
        replace_in(site / "brindle_quay/settings.py", '    "ferries",', entries + '    "ferries",')
        replace_in(site / "brindle_quay/urls.py", self.include_before, includes + self.include_before)

    def register_many(self, site: Path, names: list[str], runtime: Path) -> BareBoot:
        """List modules, then migrate."""
        self.list_modules(site, names)
        run_step([runtime, "manage.py", "migrate", "--no-input", "-v", "0"], site)
        return BareBoot([runtime, BARE_BOOT], lambda name: f"/{name.replace('_', '-')}/")


class _OwnTrial(DjangoTrial):
    def register_by_hand(self, site: Path) -> None:
        entry = '    "ferries",  # timetable of the quay ferry\n'
        replace_in(site / "brindle_quay/settings.py", entry, entry + '    "pilotage",\n')
        include = '    path("pilots/", include("pilotage.urls")),\n'
        replace_in(site / "brindle_quay/urls.py", FERRIES, FERRIES + include)


def replace_in(path: Path, old: str, new: str) -> None:
    """Replace a text in a file."""
    path.write_text(path.read_text("utf-8").replace(old, new), "utf-8")


TRIAL = _OwnTrial()
