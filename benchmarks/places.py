"""Where the benchmarks find the program and the hosts, and the sites that they work on."""

from __future__ import annotations

import atexit
import os
import shutil
import sys
import tempfile
from pathlib import Path

from .measure import command

#  nothing reaches the state of whoever runs the benchmarks; the tests bring a folder of their own
STATE = Path(os.environ.get("SPROUT_BENCH_STATE") or tempfile.mkdtemp(prefix="sprout-state-")).resolve()
os.environ["SWIFT_SPROUT_STATE"] = str(STATE)
if "SPROUT_BENCH_STATE" not in os.environ:
    atexit.register(shutil.rmtree, STATE, True)

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
FLOORS = Path(__file__).parent / "floors"


def forget_state() -> None:
    """Forget what the program keeps of the hosts that it worked on."""
    shutil.rmtree(STATE, ignore_errors=True)


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
    make_all(open_host(HostChoice(str(host), kit, str(INTERPRETERS[kit]))), Wanted(briefs=tuple(briefs)), preview=False)
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
    list_modules(site, [f"beacon_{number}" for number in range(count)])


def list_modules(site: Path, names: list[str]) -> None:
    """Enter modules in the settings and the root addresses of a Django site."""
    entries = "".join(f'    "{name}",\n' for name in names)
    includes = "".join(f'    path("", include("{name}.urls")),\n' for name in names)
    settings, urls = site / "brindle_quay/settings.py", site / "brindle_quay/urls.py"
    settings.write_text(settings.read_text().replace('    "ferries",', entries + '    "ferries",'))
    line = '    path("ferries/", include("ferries.urls")),\n'
    urls.write_text(urls.read_text().replace(line, line + includes))
