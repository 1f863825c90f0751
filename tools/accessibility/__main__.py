"""Asks an accessibility checker about the pages of generated modules: ``python -m tools.accessibility [KIT …]``.

A module with a list, one record's page, a form, a plain page, and a menu and a block where the host has them, is made
on the demo host of each kit, served, and opened in a real browser. Needs node, npm and Chromium. Ends with 1 where
something is found.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from trials.hosts import built_demo, copy_host
from trials.places import PROGRAM, RUNTIMES

HERE = Path(__file__).parent
KITS = ("django", "flask", "wagtail", "wordpress")
RECORD = """
[module]
name = "Buoy yard"

[[record]]
name = "Buoy"
fields = ["name: text(20)", "light: choice(red, green), default red", "note: long text, optional"]
"""
PAGES = """
[[page]]
path = "/buoys"
title = "Buoys"
shows = "Buoy"

[[page]]
path = "/rules"
title = "Rules of the yard"
text = "Buoys are laid at slack water."
"""
FORM = """
[[page]]
path = "/buoys/new"
title = "New buoy"
shows = "Buoy"
view = "form"
access = "anyone"
"""
PLACED = """
[[menu]]
title = "Buoys of the yard"
page = "/buoys"

[[block]]
name = "Newest buoys"
shows = "Buoy"
"""
SAMPLES = """
[[sample]]
record = "Buoy"
rows = [{ name = "North", light = "green" }, { name = "South" }]
"""


def audited(kit: str, folder: Path) -> list[dict[str, object]]:
    """Make the module on a copy of a kit's demo host, serve it, and return what the checker found on each page."""
    site = folder / kit
    copy_host(kit, built_demo(kit), site)
    runtime = [] if kit == "wordpress" else ["--runtime", str(RUNTIMES[kit])]
    options = ["--host", str(site), *runtime, "-q"]
    brief = folder / f"{kit}.toml"
    brief.write_text(RECORD + PAGES + ("" if kit == "flask" else FORM + PLACED + SAMPLES))
    _run("new", "--brief", str(brief), *options)
    module = "buoy-yard" if kit == "wordpress" else "buoy_yard"
    _run("enable", module, *options)
    if kit != "flask":
        _run("settle", module, "--samples", *options)
    serving = subprocess.Popen(
        [PROGRAM, "serve", module, "--format", "json", *options[:-1]], stdout=subprocess.PIPE, text=True
    )
    try:
        assert serving.stdout is not None
        lines: list[str] = []
        while not lines or lines[-1].rstrip() != "}":
            lines.append(serving.stdout.readline())
            if not lines[-1]:
                raise SystemExit(f"{kit}: the host is not served: {''.join(lines)}")
        served = json.loads("".join(lines))
        urls = [url for one in served["modules"] for url in one["addresses"]]
        urls += [
            f"{url}1/" for url in urls if url.endswith("/buoys/") and kit != "flask"
        ]  # the first sample's own page
        ran = subprocess.run(
            ["node", str(HERE / "audit.mjs"), _browser(), *urls], stdout=subprocess.PIPE, text=True, check=True
        )
        found: list[dict[str, object]] = json.loads(ran.stdout)
        return found
    finally:
        serving.terminate()
        serving.wait(20)


def _run(*words: str) -> None:
    subprocess.run([PROGRAM, *words], check=True)


def _browser() -> str:
    found = shutil.which("chromium") or shutil.which("chromium-browser") or shutil.which("google-chrome")
    if found is None:
        raise SystemExit("There is no Chromium here. Install the package chromium.")
    return found


def main(kits: list[str]) -> int:
    """Print what is found, page by page; returns 1 where anything is."""
    if not (HERE / "node_modules").is_dir():
        subprocess.run(["npm", "install", "--no-audit", "--no-fund", "--silent"], cwd=HERE, check=True)
    any_found = False
    with tempfile.TemporaryDirectory(prefix="sprout-accessibility-") as folder:
        os.environ["SWIFT_SPROUT_STATE"] = str(Path(folder, "state"))
        for kit in kits or KITS:
            for page in audited(kit, Path(folder)):
                any_found = any_found or bool(page["found"])
                print(f"{kit}: {page['url']} {page['status']}: {len(page['found'])} found")  # type: ignore[arg-type]
                for one in page["found"]:  # type: ignore[attr-defined]
                    print(f"  {one['impact']}: {one['rule']}: {one['help']}")
                    for place in one["where"]:
                        print(f"    {place}")
    return int(any_found)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
