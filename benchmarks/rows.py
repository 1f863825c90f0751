"""What is measured, and against which floor."""

from __future__ import annotations

import shutil
import sys
from collections.abc import Iterator
from pathlib import Path

from .measure import Row, command, compare
from .places import BRIEF, DJANGO, PROGRAM, PYTHON, REPOSITORY, build_site

BARE_BOOT = """
import os, runpy, sys, threading, http.client, socketserver
from wsgiref.simple_server import WSGIServer, WSGIRequestHandler
sys.path.insert(0, os.getcwd())
os.environ["DJANGO_SETTINGS_MODULE"] = "brindle_quay.settings"
from django.core.wsgi import get_wsgi_application
class Quiet(WSGIRequestHandler):
    def log_message(self, *a): pass
class Server(socketserver.ThreadingMixIn, WSGIServer):
    daemon_threads = True
server = Server(("127.0.0.1", 0), Quiet)
server.set_app(get_wsgi_application())
threading.Thread(target=server.serve_forever, daemon=True).start()
for path in sys.argv[1:]:
    connection = http.client.HTTPConnection("127.0.0.1", server.server_address[1])
    connection.request("GET", path)
    answer = connection.getresponse()
    assert answer.status == 200 and answer.read(), path
    connection.close()
os._exit(0)
"""
COPY = "import shutil, sys; shutil.copytree(sys.argv[1], sys.argv[2])"


def startup() -> Iterator[Row]:
    """Starting the program against starting a bare interpreter."""
    yield compare(
        "--version / bare interpreter",
        command([PROGRAM, "--version"]),
        command([PYTHON, "-c", "pass"]),
        2.5,
        repeats=21,
    )


def making(folder: Path) -> Iterator[Row]:
    """Making a whole module against copying the same files with Python."""
    site = build_site(folder)
    template = folder / "template"
    module = site / "tide_board"
    command([PROGRAM, "new", "--brief", BRIEF, "--host", site])()
    shutil.copytree(module, template)

    def away() -> None:
        shutil.rmtree(module, ignore_errors=True)
        shutil.rmtree(site / ".swift-sprout", ignore_errors=True)

    yield compare(
        "new, whole module / copy of its files",
        command([PROGRAM, "new", "--brief", BRIEF, "--host", site]),
        command([PYTHON, "-c", COPY, template, module]),
        4,
        repeats=15,
        before=away,
    )


def checking(folder: Path) -> Iterator[Row]:
    """A live check against the host's own boot with as many requests."""
    site = build_site(folder)
    host: list[str | Path] = ["--host", site, "--python", DJANGO]
    command([PROGRAM, "new", "--brief", BRIEF, "--host", site])()
    command([PROGRAM, "enable", "tide_board", *host])()
    script = folder / "bare_boot.py"
    script.write_text(BARE_BOOT)
    yield compare(
        "check, one module / bare boot, one request",
        command([PROGRAM, "check", "tide_board", *host]),
        command([DJANGO, script, "/tides/"], site),
        1.5,
    )


def size(folder: Path) -> Iterator[Row]:
    """The installed size in megabytes, with what it needs, without hosts."""
    packages = folder / "installed"
    command([sys.executable, "-m", "pip", "install", "-q", "--target", packages, REPOSITORY])()
    megabytes = sum(path.stat().st_size for path in packages.rglob("*") if path.is_file()) / 1e6
    yield Row("installed size in MB / 1 MB", megabytes, 1.0, 40, 0.0, "MB")
