"""The rows of hosts whose kits build on Django's: a live check of 20 modules against boot and 20 requests."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from swift_sprout.hosts.protocol import HostOptions
from swift_sprout.hosts.registry import kit_named

from .measure import Row, command, compare
from .places import INTERPRETERS, PROGRAM, make_beacons
from .rows import BARE_BOOT

#  how the root addresses take a module in, and before which of their lines
INCLUDED = {
    "wagtail": ('path("", include("{name}.urls"))', '    path("", include(wagtail_urls)),\n'),
    "oscar": ('path("", apps.get_app_config("{name}").urls)', "    # the shop answers at the root\n"),
}


def checking(folder: Path) -> Iterator[Row]:
    """A live check of 20 modules on each of the hosts."""
    for kit, (line, before) in INCLUDED.items():
        host = folder / kit
        host.mkdir()
        python = INTERPRETERS[kit]
        kit_named(kit).build_demo(host, HostOptions(str(python)))
        names = make_beacons(folder, host, kit, "list", "/beacon-{number}")
        settings, urls = host / "brindle_quay/settings.py", host / "brindle_quay/urls.py"
        entries = "".join(f'    "{name}",\n' for name in names)
        settings.write_text(settings.read_text().replace('    "ferries",', entries + '    "ferries",'))
        lines = "".join(f"    {line.format(name=name)},\n" for name in names)
        urls.write_text(urls.read_text().replace(before, lines + before))
        command([python, "manage.py", "migrate", "--no-input", "-v", "0"], host)()
        script = folder / "bare_boot.py"
        script.write_text(BARE_BOOT)
        yield compare(
            f"{kit}: check, 20 modules / boot, 20 requests",
            command([PROGRAM, "check", *names, "--host", host, "--runtime", python, "-q"]),
            command([python, script, *(f"/{name.replace('_', '-')}/" for name in names)], host),
            1.5,
            repeats=5,
        )
