"""The sites that the benchmarks work on."""

from __future__ import annotations

import shutil
from pathlib import Path

from swift_sprout.hosts.kits.django.trial import TRIAL as DJANGO
from trials.hosts import build_demo
from trials.places import PROGRAM, RUNTIMES

from . import STATE
from .measure import command

FLOORS = Path(__file__).parent / "floors"


def forget_state() -> None:
    """Forget what the program keeps of the hosts that it worked on."""
    shutil.rmtree(STATE, ignore_errors=True)


def build_site(folder: Path) -> Path:
    """Build the Brindle Quay site on Django with its database."""
    site = folder / "site"
    site.mkdir()
    build_demo("django", site)
    return site


BEACON = """
[module]
name = "Beacon {number}"
internal = "beacon_{number}"
[[record]]
name = "Lamp"
fields = ["colour: text(20)", "lit: yes/no"]
[[page]]
path = "{address}"
title = "Lamps"
shows = "Lamp"
view = "{view}"
"""


def make_beacons(folder: Path, host: Path, kit: str, view: str, address: str, count: int) -> list[str]:
    """Make small modules on a host and return their internal names.

    view -- how their one page shows records, address -- its address, in which {number} stands for the module's number
    """
    from swift_sprout.actions.hosting import HostChoice, open_host
    from swift_sprout.actions.making import Wanted, make_all

    briefs = []
    names = [f"beacon_{number}" for number in range(count)]
    for number, name in enumerate(names):
        path = folder / f"{name}.toml"
        path.write_text(BEACON.format(number=number, view=view, address=address.format(number=number)))
        briefs.append(str(path))
    make_all(open_host(HostChoice(str(host), kit, str(RUNTIMES[kit]))), Wanted(briefs=tuple(briefs)), preview=False)
    return names


def buoy_briefs(folder: Path, count: int) -> list[str | Path]:
    """Write briefs of small modules; returns them as words of a command."""
    words: list[str | Path] = []
    for number in range(count):
        brief = folder / f"buoy_{number}.toml"
        brief.write_text(
            f'[module]\nname = "Buoy list {number}"\n[[record]]\nname = "Buoy"\n'
            'fields = ["colour: text(20)", "height_m: decimal(4,1)", "lit: yes/no"]\n'
            f'[[page]]\npath = "/buoys-{number}"\ntitle = "Buoys"\nshows = "Buoy"\n'
        )
        words += ["--brief", brief]
    return words


def add_modules(site: Path, count: int) -> None:
    """Add modules to a site, enabled, each with a page, a record with its table, templates and tests."""
    brief = site.parent / "beacon.toml"
    first = site / "beacon_0"
    brief.write_text(
        '[module]\nname = "Beacon 0"\ninternal = "beacon_0"\n[[record]]\nname = "Lamp"\n'
        'fields = ["colour: text(20)", "height_m: decimal(4,1)"]\n[[page]]\npath = "/beacon_0"\ntitle = "Lamps"\n'
    )
    command([PROGRAM, "new", "--brief", brief, "--host", site])()
    for number in range(count):
        name = f"beacon_{number}"
        if number:
            shutil.copytree(first, site / name)
            for path in sorted((site / name).rglob("*"), reverse=True):
                if path.is_file():
                    text = path.read_text().replace("beacon_0", name).replace("Beacon0", f"Beacon{number}")
                    path.write_text(text.replace("Beacon 0", f"Beacon {number}"))
                if "beacon_0" in path.name:
                    path.rename(path.with_name(path.name.replace("beacon_0", name)))
    DJANGO.list_modules(site, [f"beacon_{number}" for number in range(count)])
