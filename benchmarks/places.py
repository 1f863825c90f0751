"""Where the benchmarks find the program and the hosts, and the sites that they work on."""

from __future__ import annotations

import shutil
import sys
from pathlib import Path

from .measure import command

REPOSITORY = Path(__file__).parent.parent
PYTHON = Path(sys.executable)
PROGRAM = PYTHON.parent / "swift-sprout"
DJANGO = REPOSITORY / ".cache/hosts/django-5.2/bin/python"
TRYTOND = REPOSITORY / ".cache/hosts/trytond-8.2/bin/python"
TRYTOND_MODULES = REPOSITORY / ".cache/hosts/trytond-8.2-modules/bin/python"
FLASK = REPOSITORY / ".cache/hosts/flask-3.1/bin/python"
WORDPRESS = REPOSITORY / ".cache/hosts/wordpress-6.1"
WAGTAIL = REPOSITORY / ".cache/hosts/wagtail-8.0/bin/python"
OSCAR = REPOSITORY / ".cache/hosts/oscar-4.2/bin/python"
INTERPRETERS = {
    "django": DJANGO,
    "trytond": TRYTOND,
    "flask": FLASK,
    "wordpress": WORDPRESS,
    "wagtail": WAGTAIL,
    "oscar": OSCAR,
}
WORLD = REPOSITORY / "src/swift_sprout/demo_world"
BRIEF = WORLD / "tide_board.toml"


def build_site(folder: Path) -> Path:
    """Build the Brindle Quay site with its database."""
    site = folder / "site"
    shutil.copytree(WORLD / "django", site, ignore=shutil.ignore_patterns("__pycache__"))
    command([DJANGO, "manage.py", "migrate", "--no-input", "-v", "0"], site)()
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


def make_beacons(folder: Path, host: Path, kit: str, view: str, address: str = "/") -> list[str]:
    """Make 20 small modules on a host and return their internal names.

    view -- how their one page shows records, address -- its address, in which {number} stands for the module's number
    """
    from swift_sprout.actions.hosting import HostChoice, open_host
    from swift_sprout.actions.making import Wanted, make_all

    briefs = []
    names = [f"beacon_{number}" for number in range(20)]
    for number, name in enumerate(names):
        path = folder / f"{name}.toml"
        path.write_text(BEACON.format(number=number, view=view, address=address.format(number=number)))
        briefs.append(str(path))
    make_all(open_host(HostChoice(str(host), kit, str(INTERPRETERS[kit]))), Wanted(briefs=tuple(briefs)), preview=False)
    return names
