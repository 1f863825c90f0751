"""Makes docs/screenshots from the demo data: each terminal view in a real terminal under a virtual screen.

Needs xterm, Xvfb and ImageMagick's import (Debian packages xterm, xvfb, imagemagick).
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

REPOSITORY = Path(__file__).parent.parent
DJANGO = REPOSITORY / ".cache/hosts/django-5.2/bin/python"
PROGRAM = Path(sys.executable).parent / "swift-sprout"
SHOTS = REPOSITORY / "docs/screenshots"
SIZE = "1280x800"
DISPLAY = ":97"

#  name of the shot, the command line shown, and commands run before it
SCENES: list[tuple[str, str, list[str]]] = [
    ("survey", "swift-sprout survey", []),
    ("new-preview", "swift-sprout new --brief tide_board.toml --preview | head -34", []),
    ("check-failing", "swift-sprout check tide_board", ["new --brief tide_board.toml"]),
    ("check-passing", "swift-sprout check tide_board", ["enable tide_board"]),
    ("check-all", "swift-sprout check", []),
    ("check-sandbox", "swift-sprout check --sandbox -q", ["disable tide_board"]),
    ("why", "swift-sprout why tide_board /tides", []),
    ("show-rules", "swift-sprout show rules 'routed.*' | head -35", []),
]


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
    for _ in range(2):
        run("undo", "--host", str(site))
    shutil.rmtree(site / ".swift-sprout", ignore_errors=True)
    for name, command, before in SCENES:
        for words in before:
            run(*words.split(), "--host", str(site), cwd=site)
        if not names or name in names:
            shoot(name, command, site, home=folder)
    if not names or "check-page" in names:
        shoot_page(site, folder)


def shoot_page(site: Path, folder: Path) -> None:
    """Write a check as a page and photograph it in a browser, wide and as on a phone."""
    page = folder / "check.html"
    (site / "ferries/views.py").write_text(
        (site / "ferries/views.py").read_text().replace("timetable.html", "times.html")
    )
    words = ["check", "--sandbox", "--output", str(page), "--host", str(site), "--python", str(DJANGO), "-q"]
    subprocess.run([PROGRAM, *words], capture_output=True)
    text = page.read_text("utf-8").replace(str(site), "~/brindle-quay")
    page.write_text(text, "utf-8")
    for name, size in (("check-page", SIZE.replace("x", ",")), ("check-page-phone", "500,1000")):
        flags = [
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--hide-scrollbars",
            f"--user-data-dir={folder}/browser",
        ]
        shot = [f"--window-size={size}", f"--screenshot={SHOTS / name}.png", page.as_uri()]
        subprocess.run(["chromium", *flags, "--disable-background-networking", *shot], capture_output=True)


def run(*words: str, cwd: Path | None = None) -> None:
    """Run the program with the demo's host."""
    python = [] if words[0] in ("undo",) else ["--python", str(DJANGO)]
    subprocess.run([PROGRAM, *words, *python], cwd=cwd, check=True, capture_output=True)


def shoot(name: str, command: str, cwd: Path, home: Path | None = None) -> None:
    """Run one command line in a terminal, wait until it has ended, and keep a picture of the screen."""
    done = cwd / ".shot-done"
    script = f"cd {cwd}; clear; echo '$ {command}'; {command}; touch {done}; sleep 60"
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
