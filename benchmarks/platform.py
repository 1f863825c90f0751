"""What is measured on trytond."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

from swift_sprout.hosts.protocol import HostOptions
from swift_sprout.hosts.trytond.kit import KIT

from .measure import Row, command, compare
from .places import PROGRAM, PYTHON, TRYTOND, TRYTOND_MODULES, make_beacons

DATABASE = "brindle_quay"
BARE_BOOT = """
import http.client, os, sys, threading
sys.path.insert(0, "modules")
from trytond import config
config.update_etc(["trytond.conf"])
from trytond.pool import Pool
from trytond.wsgi import app
Pool.start()
Pool("brindle_quay").init()
from werkzeug.serving import WSGIRequestHandler, make_server
class Quiet(WSGIRequestHandler):
    def log(self, *_): pass
server = make_server("127.0.0.1", 0, app, request_handler=Quiet)
threading.Thread(target=server.serve_forever, daemon=True).start()
for path in sys.argv[1:]:
    connection = http.client.HTTPConnection("127.0.0.1", server.server_port)
    connection.request("GET", path)
    answer = connection.getresponse()
    assert answer.status == 200 and answer.read(), path
    connection.close()
os._exit(0)
"""
PARSE = """
import ast, pathlib, sys, xml.parsers.expat
for folder in pathlib.Path(sys.argv[1]).iterdir():
    for path in [*folder.glob("*.py"), *folder.glob("[!t]*/*.py")]:
        ast.parse(path.read_bytes())
    for path in [*folder.glob("*.xml"), *folder.glob("view/*.xml")]:
        xml.parsers.expat.ParserCreate().Parse(path.read_bytes(), True)
"""


def checking(folder: Path) -> Iterator[Row]:
    """A live check of 20 modules against the host's own boot with 20 requests."""
    host = folder / "platform"
    host.mkdir()
    KIT.build_demo(host, HostOptions(str(TRYTOND)))
    names = make_beacons(folder, host, "trytond", "list and one")
    for name in names:
        points = host / "modules" / f"{name}-0.1.0.dist-info"
        points.mkdir()
        (points / "METADATA").write_text(f"Metadata-Version: 2.1\nName: {name}\nVersion: 0.1.0\n")
        (points / "entry_points.txt").write_text(f"[trytond.modules]\n{name} = {name}\n")
    admin: list[str | Path] = [
        TRYTOND.parent / "trytond-admin",
        "-c",
        "trytond.conf",
        "-d",
        DATABASE,
        "-m",
        "-u",
        *names,
    ]
    command(["env", "PYTHONPATH=modules", *admin], host)()
    script = folder / "bare_boot.py"
    script.write_text(BARE_BOOT)
    yield compare(
        "trytond: check, 20 modules / boot, 20 requests",
        command([PROGRAM, "check", *names, "--host", host, "--runtime", TRYTOND, "-q"]),
        command([TRYTOND, script, *(f"/{DATABASE}/r/{name}" for name in names)], host),
        1.5,
        repeats=5,
    )


def reading(folder: Path) -> Iterator[Row]:
    """A static check of real modules against parsing their files once."""
    host = folder / "platform"
    (host / "modules").mkdir(parents=True)
    (host / "data").mkdir()
    shutil.copy(Path(__file__).parent.parent / "src/swift_sprout/demo_world/trytond/trytond.conf", host)
    library = next(TRYTOND_MODULES.parent.parent.glob("lib/python3*/site-packages/trytond/modules"))
    script = folder / "parse.py"
    script.write_text(PARSE)
    count = sum(path.is_dir() for path in library.iterdir())
    yield compare(
        f"trytond: check --static, {count} real modules / parsing once",
        command([PROGRAM, "check", "--static", "-q", "--host", host, "--runtime", TRYTOND_MODULES], statuses=(0, 1)),
        command([PYTHON, script, library]),
        2.0,
        repeats=5,
    )
