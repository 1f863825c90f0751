"""Makes docs/screenshots from the demo data: each terminal view in a real terminal under a virtual screen.

Needs xterm, Xvfb and ImageMagick's import (Debian packages xterm, xvfb, imagemagick).
"""

from __future__ import annotations

import atexit
import json
import os
import shlex
import shutil
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path

REPOSITORY = Path(__file__).parent.parent
sys.path[:0] = [str(REPOSITORY)]

from trials.places import PROGRAM, RUNTIMES  # noqa: E402

STATE = Path(tempfile.mkdtemp(prefix="sprout-state-"))
os.environ["SWIFT_SPROUT_STATE"] = str(STATE)
atexit.register(shutil.rmtree, STATE, True)
DJANGO, TRYTOND, WORDPRESS = (RUNTIMES[kit] for kit in ("django", "trytond", "wordpress"))
SHOTS = REPOSITORY / "docs/screenshots"
SIZE = "1280x800"
DISPLAY = ":97"

#  name of the shot, the command line shown, and commands run before it
SCENES: list[tuple[str, str, list[str]]] = [
    ("survey", "swift-sprout survey", []),
    ("new-preview", "swift-sprout new --brief tide_board.toml --preview | head -34", []),
    ("check-failing", "swift-sprout check tide_board", ["new --brief tide_board.toml"]),
    ("check-passing", "swift-sprout check tide_board", ["enable tide_board"]),
    ("check-sandbox", "swift-sprout check --sandbox -q", ["disable tide_board"]),
    ("why", "swift-sprout why tide_board /tides", []),
    (
        "add",
        "swift-sprout add group 'Harbour clerks, may read create Berth' --to berth_register --preview | head -36",
        [
            "enable tide_board",
            "new berth_register --record Berth:number_text(12),unique",
        ],
    ),
    (
        "show-rights",
        "swift-sprout show rights berth_register",
        ["undo", "new --brief berth_register.toml", "enable berth_register", "settle berth_register --samples"],
    ),
    (
        "test",
        "mv tide_board/tests/test_tide_board.py tide_board/tests/tides.py; swift-sprout test",
        [],
    ),
    (
        "pattern",
        "swift-sprout pattern take berth_register --as two-records --short; swift-sprout pattern try two-records",
        [],
    ),
    ("rename", "swift-sprout rename berth_register 'Mooring list' --preview", []),
]


#  pages of hosts that are built by their demo: the picture's name and the address
SERVED = {
    "wagtail": ("content-page", "/water-levels/spring-tide/"),
    "oscar": ("shop-product", "/catalogue/storm-lantern_1/"),
}


def main(names: list[str]) -> None:
    """Take the named shots, or all."""
    missing = [tool for tool in ("xterm", "Xvfb", "import") if shutil.which(tool) is None]
    if missing:
        sys.exit(f"missing: {', '.join(missing)} (Debian packages xterm, xvfb, imagemagick)")
    SHOTS.mkdir(parents=True, exist_ok=True)
    screen = subprocess.Popen(["Xvfb", DISPLAY, "-screen", "0", f"{SIZE}x24"], stderr=subprocess.DEVNULL)
    try:
        time.sleep(1)
        with tempfile.TemporaryDirectory() as folder:
            shoot_all(Path(folder), names)
    finally:
        screen.terminate()
        screen.wait()


def shoot_all(folder: Path, names: list[str]) -> None:
    """Build the site, then run the scenes on it in order."""
    site = folder / "brindle-quay"
    (folder / "django-env").symlink_to(DJANGO.parent.parent)
    if not names or "demo" in names:
        shoot("demo", "swift-sprout demo brindle-quay", folder)
        shutil.rmtree(site, ignore_errors=True)
    run("demo", str(site))
    while (site / "tide_board").exists():
        run("undo", "--host", str(site))
    for name, command, before in SCENES:
        for words in before:
            spoken = [word.replace(":number_", ": number ") for word in words.split()]
            run(*spoken, "--host", str(site), cwd=site)
        if not names or name in names:
            shoot(name, command, site, home=folder)
    if not names or "site" in names:
        shoot_site(site, folder)
    if not names or {"check-page", "pack", "wordpress-berths"} & set(names):
        shoot_others(folder, names)
    for kit, (name, path) in SERVED.items():
        if not names or name in names:
            shoot_served(folder, kit, name, path)


def shoot_served(folder: Path, kit: str, name: str, path: str) -> None:
    """Build the host of a kit by its demo, serve it, and photograph one page of it."""
    place = folder / kit
    runtime = RUNTIMES[kit]
    subprocess.run([PROGRAM, "demo", place, "--kit", kit, "--runtime", runtime], check=True, capture_output=True)
    if kit == "wagtail":
        write_as_an_editor(place, runtime)
    words: list[str | Path] = [PROGRAM, "serve", "--port", "8499", "--host", place, "--runtime", runtime]
    server = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        wait_for(8499)
        photograph(name, f"http://127.0.0.1:8499{path}", folder)
    finally:
        server.terminate()
        server.wait()


def write_as_an_editor(place: Path, runtime: Path) -> None:
    """Fill the page of the demo by its content, as text that is put into the database."""
    path = place / "tide_pages/content/TidePage.json"
    told = json.loads(path.read_text("utf-8"))
    told["items"][0] |= {
        "height_m": "4.10",
        "note": "The mole is closed two hours before and after high water.",
        "story": [
            {"type": "heading", "value": "What a spring tide is"},
            {
                "type": "paragraph",
                "value": "<p>Sun and moon <b>pull together</b>: high water is high.</p>",
            },
            {"type": "quote", "value": "Mind the steps at the old crane."},
        ],
    }
    path.write_text(json.dumps(told), "utf-8")
    words: list[str | Path] = ["content", "put", "tide_pages", "--host", place, "--runtime", runtime]
    subprocess.run([PROGRAM, *words], check=True, capture_output=True)


def shoot_others(folder: Path, names: list[str]) -> None:
    """Build a host of each kind, and photograph what is theirs."""
    site, platform, quay = (folder / "three" / name for name in ("site", "platform", "quay"))
    for kit, place, runtime in (
        ("django", site, DJANGO),
        ("trytond", platform, TRYTOND),
        ("wordpress", quay, WORDPRESS),
    ):
        subprocess.run([PROGRAM, "demo", place, "--kit", kit, "--runtime", runtime], check=True, capture_output=True)
    if not names or "pack" in names:
        shoot("pack", "swift-sprout pack berth_register", quay, home=folder)
    if not names or "wordpress-berths" in names:
        server = subprocess.Popen([PROGRAM, "serve", "--port", "8498", "--host", quay], stdout=subprocess.DEVNULL)
        try:
            wait_for(8498)
            photograph("wordpress-berths", "http://127.0.0.1:8498/berth-register/berths/", folder)
        finally:
            server.terminate()
            server.wait()
    if not names or "check-page" in names:
        shoot_page(site, folder, [f"{platform},{TRYTOND}", str(quay)])


def shoot_page(site: Path, folder: Path, others: list[str]) -> None:
    """Write a check of several hosts as a page and photograph it in a browser, wide and as on a phone."""
    page = folder / "check.html"
    (site / "ferries/views.py").write_text(
        (site / "ferries/views.py").read_text().replace("timetable.html", "times.html")
    )
    words = ["check", "--output", str(page), "--host", str(site), "--runtime", str(DJANGO), "-q"]
    subprocess.run([PROGRAM, *words, *(f"--also={other}" for other in others)], capture_output=True)
    text = page.read_text("utf-8")
    for place in (site, *(Path(other.partition(",")[0]) for other in others)):
        text = text.replace(str(place), f"~/{place.name}")
    page.write_text(text, "utf-8")
    photograph("check-page", page.as_uri(), folder)


def wait_for(port: int) -> None:
    """Return as soon as something listens at the port; a server that never starts is an error, not an old picture."""
    for _ in range(120):
        with socket.socket() as plug:
            if plug.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.25)
    raise TimeoutError(f"nothing listens at port {port}")


def photograph(name: str, address: str, folder: Path, size: str = SIZE) -> None:
    """Photograph a page in a browser."""
    flags = ["--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--disable-background-networking"]
    flags += ["--accept-lang=en", f"--user-data-dir={folder}/browser", f"--window-size={size.replace('x', ',')}"]
    subprocess.run(["chromium", *flags, f"--screenshot={SHOTS / name}.png", address], capture_output=True)


SIGN_IN = """
import os, sys
sys.path.insert(0, os.getcwd())
os.environ["DJANGO_SETTINGS_MODULE"] = "brindle_quay.settings"
import django
django.setup()
from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
user = get_user_model().objects.create_user("ada", is_staff=True)
user.groups.add(Group.objects.get(name="Harbour master"))
with open("brindle_quay/everybody_is_ada.py", "w") as file:
    file.write('''
def middleware(get_response):
    def answer(request):
        from django.contrib.auth import get_user_model
        request.user = get_user_model().objects.get(username="ada")
        return get_response(request)
    return answer
''')
with open("brindle_quay/settings.py", "a") as file:
    file.write("\\nMIDDLEWARE.append('brindle_quay.everybody_is_ada.middleware')\\n")
"""


def shoot_site(site: Path, folder: Path) -> None:
    """Photograph the berth register's own pages as the harbour master sees them, and the graph of modules."""
    picture = folder / "graph.svg"
    run("graph", "--as", "svg", "--output", str(picture), "--host", str(site))
    photograph("graph", picture.as_uri(), folder, "640x300")
    seen = folder / "seen"
    shutil.copytree(site, seen)
    subprocess.run([DJANGO, "-c", SIGN_IN], cwd=seen, check=True)
    server = subprocess.Popen(
        [DJANGO, "manage.py", "runserver", "--noreload", "127.0.0.1:8497"],
        cwd=seen,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        start_new_session=True,
    )
    try:
        time.sleep(2)
        photograph("site-bookings", "http://127.0.0.1:8497/bookings/", folder)
    finally:
        server.terminate()
        server.wait()


def run(*words: str, cwd: Path | None = None) -> None:
    """Run the program with the demo's host."""
    python = [] if words[0] in ("undo", "graph") else ["--runtime", str(DJANGO)]
    subprocess.run([PROGRAM, *words, *python], cwd=cwd, check=True, capture_output=True)


def shoot(name: str, command: str, cwd: Path, home: Path | None = None) -> None:
    """Run one command line in a terminal, wait until it has ended, and keep a picture of the screen."""
    done = cwd / ".shot-done"
    script = f"cd {cwd}; clear; echo {shlex.quote('$ ' + command)}; {command}; touch {done}; sleep 60"
    environment = {
        **os.environ,
        "DISPLAY": DISPLAY,
        "PATH": f"{PROGRAM.parent}:{os.environ['PATH']}",
        "HOME": str(home or cwd),
        "VIRTUAL_ENV": str((home or cwd) / "django-env"),
        "LANG": "C.UTF-8",
        "LC_ALL": "C.UTF-8",
    }
    geometry = "116x38+0+0"
    terminal = subprocess.Popen(
        [
            "xterm",
            "-geometry",
            geometry,
            "-fa",
            "DejaVu Sans Mono",
            "-fs",
            "12",
            "-bg",
            "#10181d",
            "-fg",
            "#dfe7ea",
            "-b",
            "12",
            "-e",
            "bash",
            "-c",
            script,
        ],
        env=environment,
        start_new_session=True,
    )
    try:
        for _ in range(600):
            if done.exists():
                break
            time.sleep(0.1)
        time.sleep(0.6)
        subprocess.run(["import", "-display", DISPLAY, "-window", "root", SHOTS / f"{name}.png"], check=True)
    finally:
        terminal.terminate()
        terminal.wait()
        done.unlink(missing_ok=True)


if __name__ == "__main__":
    main(sys.argv[1:])
