"""Rows in the tables of the module that is removed: put there beforehand, and looked for afterwards."""

from __future__ import annotations

from pathlib import Path

from swift_sprout.disk.journal import Journal

from ..hosts import trial

STATIONS = tuple(f"station {number} of Brindle Quay" for number in range(7))


def add_rows(kit: str, site: Path) -> None:
    """Put a row for each station into the module's table."""
    trial(kit).add_stations(site, STATIONS)
    held = trial(kit).stations(site)
    assert set(held) >= set(STATIONS), held


def lost_rows(kit: str, site: Path, said: str) -> str:
    """Tell what became of the rows where they are neither in the database nor in a file that somebody was told of."""
    missing = set(STATIONS) - set(trial(kit).stations(site))
    if not missing:
        return ""
    files = sorted((Journal(site).state / "rows").glob("*.json"))
    kept = [file for file in files if all(station in file.read_text("utf-8") for station in missing)]
    if not kept:
        return f"{len(missing)} rows are nowhere"
    done = Journal(site).last()
    said += " ".join(done.notes) if done else ""
    return "" if any(str(file) in said for file in kept) else f"nobody was told of the rows in {kept[-1].name}"
