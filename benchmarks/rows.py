"""What is measured, and against which floor."""

from __future__ import annotations

import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from .measure import Row, command, compare
from .places import BRIEF, DJANGO, PROGRAM, PYTHON, REPOSITORY, WORLD, build_site

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
PARSE = """
import ast, pathlib, sys
for path in pathlib.Path(sys.argv[1]).rglob("*.py"):
    ast.parse(path.read_bytes())
"""
PEAK = """
import resource, subprocess, sys
subprocess.run(sys.argv[1:], capture_output=True)
print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1000)
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


WRITE = """
import pathlib, pickle, sys
root = pathlib.Path(sys.argv[2])
for path, content in pickle.loads(pathlib.Path(sys.argv[1]).read_bytes()).items():
    target = root / path
    target.parent.mkdir(parents=True, exist_ok=True)
    target.write_bytes(content)
"""


def adding(folder: Path) -> Iterator[Row]:
    """Adding one part to a module of 40 files against starting a bare interpreter."""
    site = build_site(folder)
    brief = WORLD / "berth_register.toml"
    command([PROGRAM, "new", "--brief", brief, "--host", site])()
    kept = folder / "kept"
    module = site / "berth_register"
    shutil.copytree(module, kept)

    def back() -> None:
        shutil.rmtree(module)
        shutil.copytree(kept, module)
        shutil.rmtree(site / ".swift-sprout", ignore_errors=True)

    count = sum(path.is_file() for path in module.rglob("*"))
    yield compare(
        f"add, one record to {count} files / bare interpreter",
        command([PROGRAM, "add", "record", "Buoy: name text(40)", "--to", "berth_register", "--host", site]),
        command([PYTHON, "-c", "pass"]),
        10,
        repeats=15,
        before=back,
    )


def producing(folder: Path) -> Iterator[Row]:
    """Making 200 modules of 200 briefs in one run against writing the same bytes with Python."""
    import pickle

    site = build_site(folder)
    briefs: list[str | Path] = []
    for number in range(200):
        brief = folder / f"buoy_{number}.toml"
        brief.write_text(
            f'[module]\nname = "Buoy list {number}"\n[[record]]\nname = "Buoy"\n'
            'fields = ["colour: text(20)", "height_m: decimal(4,1)", "lit: yes/no"]\n'
            f'[[page]]\npath = "/buoys-{number}"\ntitle = "Buoys"\nshows = "Buoy"\n'
        )
        briefs += ["--brief", brief]
    produce = command([PROGRAM, "new", *briefs, "--host", site, "-q"])
    produce()
    made = {
        path.relative_to(site).as_posix(): path.read_bytes()
        for folder_of in sorted(site.glob("buoy_list_*"))
        for path in folder_of.rglob("*")
        if path.is_file()
    }
    (folder / "made.pickle").write_bytes(pickle.dumps(made))

    def away() -> None:
        for folder_of in site.glob("buoy_list_*"):
            shutil.rmtree(folder_of)
        shutil.rmtree(site / ".swift-sprout", ignore_errors=True)

    away()
    yield compare(
        f"new, 200 briefs ({len(made)} files) / writing the bytes",
        produce,
        command([PYTHON, "-c", WRITE, folder / "made.pickle", site]),
        3,
        repeats=5,
        before=away,
    )


def checking(folder: Path) -> Iterator[Row]:
    """A live check against the host's own boot with as many requests."""
    site = build_site(folder)
    host: list[str | Path] = ["--host", site, "--runtime", DJANGO]
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


def checking_many(folder: Path) -> Iterator[Row]:
    """A live check of 50 modules against bare boot with 50 requests."""
    site = build_site(folder)
    count = 50
    add_modules(site, count)
    host: list[str | Path] = ["--host", site, "--runtime", DJANGO]
    names = [f"beacon_{number}" for number in range(count)]
    script = folder / "bare_boot.py"
    script.write_text(BARE_BOOT)
    yield compare(
        "check, 50 modules / bare boot, 50 requests",
        command([PROGRAM, "check", *names, *host, "-q"]),
        command([DJANGO, script, *(f"/{name}/" for name in names)], site),
        1.5,
        repeats=5,
    )


def reading_many(folder: Path) -> Iterator[Row]:
    """A static check of 200 modules against parsing their files once; and the memory of a check of all of them."""
    site = build_site(folder)
    add_modules(site, 200)
    script = folder / "parse.py"
    script.write_text(PARSE)
    yield compare(
        "check --static, 200 modules / parsing once",
        command([PROGRAM, "check", "--static", "-q", "--host", site]),
        command([PYTHON, script, site]),
        2.0,
        repeats=5,
    )
    measured = subprocess.run(
        [PYTHON, "-c", PEAK, PROGRAM, "check", "-q", "--host", site, "--runtime", DJANGO],
        capture_output=True,
        text=True,
    )
    yield Row("memory of a check of 200 modules in MB / 1 MB", float(measured.stdout.split()[-1]), 1.0, 150, 0.0, "MB")


def add_modules(site: Path, count: int) -> None:
    """Add modules to a site, enabled, each with a page, a record with its table, templates and tests."""
    entries, includes = "", ""
    brief = folder_brief = site.parent / "beacon.toml"
    first = site / "beacon_0"
    brief.write_text(
        '[module]\nname = "Beacon 0"\ninternal = "beacon_0"\n[[record]]\nname = "Lamp"\n'
        'fields = ["colour: text(20)", "height_m: decimal(4,1)"]\n[[page]]\npath = "/beacon_0"\ntitle = "Lamps"\n'
    )
    command([PROGRAM, "new", "--brief", folder_brief, "--host", site])()
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
        entries += f'    "{name}",\n'
        includes += f'    path("", include("{name}.urls")),\n'
    settings, urls = site / "brindle_quay/settings.py", site / "brindle_quay/urls.py"
    settings.write_text(settings.read_text().replace('    "ferries",', entries + '    "ferries",'))
    line = '    path("ferries/", include("ferries.urls")),\n'
    urls.write_text(urls.read_text().replace(line, line + includes))
    command([DJANGO, "manage.py", "migrate", "--no-input", "-v", "0"], site)()


def size(folder: Path) -> Iterator[Row]:
    """The installed size in megabytes, with what it needs, without hosts."""
    packages = folder / "installed"
    command([sys.executable, "-m", "pip", "install", "-q", "--target", packages, REPOSITORY])()
    megabytes = sum(path.stat().st_size for path in packages.rglob("*") if path.is_file()) / 1e6
    yield Row("installed size in MB / 1 MB", megabytes, 1.0, 40, 0.0, "MB")
