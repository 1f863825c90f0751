"""A live check of many modules against the bare boot of their host with as many requests, on every host kind."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple

from swift_sprout.actions.hosting import HostChoice, open_host
from swift_sprout.hosts.contract.kit import HostOptions
from swift_sprout.hosts.kits.wordpress.database import own_server
from swift_sprout.hosts.kits.wordpress.php import find_php, options
from swift_sprout.hosts.registry import kit_named

from .measure import Row, command, compare
from .places import FLOORS, INTERPRETERS, PROGRAM, PYTHON, make_beacons

COUNT = 100
AT_MOST = 1.25
DATABASE = "brindle_quay"
#  the address of a module's one page, where the host serves a module's pages below its own address
ADDRESSES = {"wordpress": "/", "trytond": "/"}
#  how the root addresses of hosts on Django take a module in, and before which of their lines
INCLUDED = {
    "django": ('path("", include("{name}.urls"))', '    path("ferries/", include("ferries.urls")),\n'),
    "wagtail": ('path("", include("{name}.urls"))', '    path("", include(wagtail_urls)),\n'),
    "oscar": ('path("", apps.get_app_config("{name}").urls)', "    # the shop answers at the root\n"),
}


class Boot(NamedTuple):
    """How a host is booted bare: the command, to which the addresses are added, and each module's address."""

    words: list[str | Path]
    address: Callable[[str], str]
    end: Callable[[], None] = lambda: None


def of(kit: str) -> Callable[[Path], Iterator[Row]]:
    """Return what measures a live check of 100 modules on the host of a kit."""

    def checking(folder: Path) -> Iterator[Row]:
        host = folder / kit
        host.mkdir()
        runtime = INTERPRETERS[kit]
        kit_named(kit).build_demo(host, HostOptions(str(runtime)))
        names = make_beacons(folder, host, kit, "list", ADDRESSES.get(kit, "/beacon-{number}"), COUNT)
        boot = PREPARED[kit](host, names)
        words: list[str | Path] = [PROGRAM, "check", *names, "--host", host, "-q"]
        yield compare(
            f"{kit}: check, {COUNT} modules / boot, {COUNT} requests",
            command(words if kit == "wordpress" else [*words, "--runtime", runtime]),
            command([*boot.words, *(boot.address(name) for name in names)], host),
            AT_MOST,
            repeats=5,
        )
        boot.end()

    return checking


def on_django(host: Path, names: list[str]) -> Boot:
    """List modules and take their addresses in, as somebody would in an editor; then migrate."""
    kit = host.name
    line, before = INCLUDED[kit]
    settings, urls = host / "brindle_quay/settings.py", host / "brindle_quay/urls.py"
    entries = "".join(f'    "{name}",\n' for name in names)
    settings.write_text(settings.read_text().replace('    "ferries",', entries + '    "ferries",'))
    lines = "".join(f"    {line.format(name=name)},\n" for name in names)
    urls.write_text(urls.read_text().replace(before, lines + before))
    command([INTERPRETERS[kit], "manage.py", "migrate", "--no-input", "-v", "0"], host)()
    return Boot([INTERPRETERS[kit], FLOORS / "django_boot.py"], lambda name: f"/{name.replace('_', '-')}/")


def on_flask(host: Path, names: list[str]) -> Boot:
    """Register modules in the factory, and make their tables."""
    opened = open_host(HostChoice(str(host), "flask", str(INTERPRETERS["flask"])))
    with opened.journal.writing("enable"):
        for name in names:
            opened.journal.apply(opened.host.switch_on(name, None).changes)
    opened.host.settle(names)
    return Boot([INTERPRETERS["flask"], FLOORS / "flask_boot.py"], lambda name: f"/{name.replace(chr(95), chr(45))}")


def on_trytond(host: Path, names: list[str]) -> Boot:
    """Write the entry points, and activate the modules with the host's own command."""
    python = INTERPRETERS["trytond"]
    for name in names:
        points = host / "modules" / f"{name}-0.1.0.dist-info"
        points.mkdir()
        (points / "METADATA").write_text(f"Metadata-Version: 2.1\nName: {name}\nVersion: 0.1.0\n")
        (points / "entry_points.txt").write_text(f"[trytond.modules]\n{name} = {name}\n")
    admin = (python.parent / "trytond-admin", "-c", "trytond.conf", "-d", DATABASE, "-m", "-u")
    command(["env", "PYTHONPATH=modules", *admin, *names], host)()
    return Boot([python, FLOORS / "trytond_boot.py"], lambda name: f"/{DATABASE}/r/{name}")


def on_wordpress(host: Path, names: list[str]) -> Boot:
    """Switch modules on with the host's own function; the database runs for the check and for its floor."""
    opened = open_host(HostChoice(str(host), "wordpress"))
    names[:] = [name.replace("_", "-") for name in names]
    for name in names:
        opened.host.turn(name, True)
    php, server = find_php(None), own_server(host)
    assert php is not None and server is not None
    words = host / "floor.txt"
    words.write_text("\n".join([php.path, *options()]))
    return Boot([PYTHON, FLOORS / "wordpress_boot.py", words, host], lambda name: f"/{name}/", server.stop)


PREPARED = {
    "django": on_django,
    "flask": on_flask,
    "trytond": on_trytond,
    "wagtail": on_django,
    "oscar": on_django,
    "wordpress": on_wordpress,
}
