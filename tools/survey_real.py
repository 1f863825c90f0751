"""Modules that nobody here wrote: surveyed, read, drawn, adopted, switched on in turn, and every finding reviewed once.

``make survey-real`` fetches them by name from the registries and writes docs/real-modules.md. A finding that nobody has
looked at yet fails the run: it goes into tools/real/reviewed.toml, with the reason why it holds.
"""

from __future__ import annotations

import argparse
import json
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

import tomli

REPOSITORY = Path(__file__).parent.parent
sys.path[:0] = [str(REPOSITORY), str(REPOSITORY / "src")]

from swift_sprout.hosts.contract.kit import HostOptions  # noqa: E402
from swift_sprout.hosts.registry import kit_named  # noqa: E402
from trials.places import PROGRAM, RUNTIMES  # noqa: E402
from trials.recipes import HOSTS  # noqa: E402

WORDPRESS = RUNTIMES["wordpress"]
REAL = REPOSITORY / "tools/real"
RESULTS = REAL / "results"
PAGE = REPOSITORY / "docs/real-modules.md"
PYTHONS = {"django": HOSTS / "django-5.2-real/bin/python", "trytond": HOSTS / "trytond-8.2-real/bin/python"}
#  of a module that is only copied into a site these hold for each
BESIDE = frozenset({"registered.not-listed", "routed.not-included", "enabled.off"})
#  what most others need of trytond's modules: switched on once, so that each of the others is alone in its turn
FIRST = ("account_product", "account_invoice_stock", "sale", "purchase", "production", "project")
LIMIT_SECONDS = 300


@dataclass
class Row:
    """What became of one module: by command, how it ended; the findings by their codes, and what was odd."""

    host: str
    module: str
    ended: dict[str, int] = field(default_factory=dict)
    findings: dict[str, str] = field(default_factory=dict)
    crashed: list[str] = field(default_factory=list)
    refused: str = ""
    seconds: float = 0.0


def sprout(row: Row, what: str, *words: str | Path) -> dict[str, Any]:
    """Run the program with its answer as a document; a crash is kept with the row."""
    command = [str(word) for word in (PROGRAM, *words, "--format", "json")]
    ran = subprocess.run(command, capture_output=True, text=True, timeout=LIMIT_SECONDS)
    row.ended[what] = ran.returncode
    if "Traceback" in ran.stderr or '"own-fault"' in ran.stdout or ran.returncode < 0:
        row.crashed.append(f"{what}: {(ran.stdout + ran.stderr)[-300:]}")
    try:
        document: dict[str, Any] = json.loads(ran.stdout)
    except ValueError:
        row.crashed.append(f"{what}: no document: {(ran.stdout + ran.stderr)[-200:]}")
        return {}
    return document


def without_places(text: str) -> str:
    """Leave out of a text where on this machine the repository and the scratch folders lie."""
    for place in (REPOSITORY, REPOSITORY.resolve(), tempfile.gettempdir(), "/dev/shm"):
        text = text.replace(f"{place}/", "")
    return text


def found_in(document: dict[str, Any], module: str) -> dict[str, str]:
    """Return the findings about a module that follow from no other, by code: the cause."""
    return {
        finding["code"]: without_places(finding["cause"])
        for setup in document.get("setups", ())
        for one in setup["modules"]
        if one["module"] == module
        for finding in one["findings"]
        if not finding["follows_from"] and finding["severity"] != "note" and finding["code"] not in BESIDE
    }


def apps() -> dict[str, dict[str, Any]]:
    """Return the Django apps by the folder of their package: distribution, entry in the list, further settings."""
    known: dict[str, dict[str, Any]] = tomli.loads((REAL / "apps.toml").read_text("utf-8"))
    return known


def on_django(name: str, demo: Path, folder: Path) -> Row:
    """Try one app on a copy of the Django demo host."""
    row, began, python = Row("django", name), time.monotonic(), PYTHONS["django"]
    site = folder / name
    shutil.copytree(demo, site)
    library = next(python.parent.parent.glob("lib/python3*/site-packages"))
    shutil.copytree(library / name, site / name, ignore=shutil.ignore_patterns("__pycache__"))
    settings = site / "brindle_quay/settings.py"
    said = apps()[name]
    entry = said.get("entry", name)
    settings.write_text(settings.read_text("utf-8") + "\n" + said.get("settings", "") + "\n", "utf-8")
    host = ("--host", site, "--runtime", python)
    sprout(row, "survey", "survey", *host)
    row.findings |= found_in(sprout(row, "static", "check", entry, "--static", *host), entry)
    sprout(row, "graph", "graph", "--host", site)
    sprout(row, "adopt", "adopt", entry, "--preview", "--host", site)
    subprocess.run([python, "manage.py", "migrate", "--no-input"], cwd=site, capture_output=True, timeout=LIMIT_SECONDS)
    answer = sprout(row, "enable", "enable", entry, *host)
    if row.ended["enable"]:
        row.refused = without_places(str(answer.get("sentence", "")))[:300]
    else:
        row.findings |= found_in(sprout(row, "live", "check", entry, *host), entry)
    row.seconds = time.monotonic() - began
    shutil.rmtree(site)
    return row


def on_trytond(name: str, demo: Path, folder: Path) -> Row:
    """Try one module on a copy of the trytond demo host: those from the registry are found where pip put them."""
    row, began, python = Row("trytond", name), time.monotonic(), PYTHONS["trytond"]
    site = folder / name
    shutil.copytree(demo, site)
    configuration = site / "trytond.conf"
    configuration.write_text(configuration.read_text("utf-8").replace(str(demo), str(site)), "utf-8")
    host = ("--host", site, "--runtime", python)
    sprout(row, "survey", "survey", *host)
    row.findings |= found_in(sprout(row, "static", "check", name, "--static", *host), name)
    sprout(row, "graph", "graph", *host)
    sprout(row, "adopt", "adopt", name, "--preview", *host)
    answer = sprout(row, "enable", "enable", name, *host, "--time-limit", "250")
    if row.ended["enable"]:
        row.refused = without_places(str(answer.get("sentence", "")))[:300]
    else:
        row.findings |= found_in(sprout(row, "live", "check", name, *host, "--time-limit", "250"), name)
    row.seconds = time.monotonic() - began
    shutil.rmtree(site)
    return row


def on_wordpress(names: list[str], demo: Path) -> list[Row]:
    """Try Debian's plugins, all of them in one site: there are few."""
    rows = [Row("wordpress", name) for name in names]
    for row in rows:
        sprout(row, "survey", "survey", "--host", demo)
        row.findings |= found_in(sprout(row, "static", "check", row.module, "--static", "--host", demo), row.module)
        sprout(row, "graph", "graph", "--host", demo)
        sprout(row, "adopt", "adopt", row.module, "--preview", "--host", demo)
        answer = sprout(row, "enable", "enable", row.module, "--host", demo)
        if row.ended["enable"]:
            row.refused = without_places(str(answer.get("sentence", "")))[:300]
        else:
            row.findings |= found_in(sprout(row, "live", "check", row.module, "--host", demo), row.module)
    return rows


def reviewed() -> dict[tuple[str, str, str], str]:
    """Return the findings that somebody has looked at: host, module and code, with the reason why each holds."""
    known = tomli.loads((REAL / "reviewed.toml").read_text("utf-8")).get("finding", [])
    return {(one["host"], module, one["code"]): one["reason"] for one in known for module in one["modules"]}


def page(rows: list[Row], known: dict[tuple[str, str, str], str]) -> str:
    """Return the table as a page."""
    lines = [
        "# Modules that nobody here wrote",
        "",
        "Made by `make survey-real`: modules fetched by name from the registries, each surveyed, checked from its",
        "files, drawn into the graph, read by `adopt`, then switched on in a copy of the Brindle Quay host and checked",
        "there. Not switched on is what asks for settings, services or packages that the host lacks; it says which.",
        "",
        "| Host | Modules | Crashes | Switched on | Without a finding | Findings, all reviewed |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    for host in dict.fromkeys(row.host for row in rows):
        own = [row for row in rows if row.host == host]
        cells = (
            len(own),
            sum(len(row.crashed) for row in own),
            sum(row.ended.get("enable") == 0 for row in own),
            sum(not row.findings for row in own),
            sum(len(row.findings) for row in own),
        )
        lines.append(f"| {host} | " + " | ".join(str(cell) for cell in cells) + " |")
    lines += ["", "## Findings", "", "| Host | Module | Cause | Why it holds |", "| --- | --- | --- | --- |"]
    for row in rows:
        for code in sorted(row.findings):
            lines.append(f"| {row.host} | `{row.module}` | `{code}` | {known.get((row.host, row.module, code), '?')} |")
    lines += ["", "## Not switched on", "", "| Host | Module | What it says |", "| --- | --- | --- |"]
    lines += [f"| {row.host} | `{row.module}` | {_plain(row.refused)} |" for row in rows if row.refused]
    lines += ["", "## All", "", ", ".join(f"`{row.module}`" for row in rows), ""]
    return "\n".join(lines)


def _plain(text: str) -> str:
    return " ".join(text.replace("|", "\\|").replace("<", "&lt;").split())[:200]


def in_turn(
    work: Callable[[str, Path, Path], Row], names: Sequence[str], kit: str, folder: Path, again: bool
) -> list[Row]:
    """Try modules of a kit, two at a time, each on a copy of the demo host; ``again`` goes on with an ended run."""
    demo = folder / f"demo-{kit}"
    demo.mkdir()
    kit_named(kit).build_demo(demo, HostOptions(str(PYTHONS[kit])))
    for name in FIRST if kit == "trytond" else ():
        words = ("enable", name, "--host", demo, "--runtime", PYTHONS[kit], "--time-limit", "250", "-q")
        subprocess.run([PROGRAM, *words], capture_output=True, timeout=LIMIT_SECONDS)
    rows = [one for one in kept() if one.host == kit and one.module in names] if again else []
    done = {one.module for one in rows}
    with ThreadPoolExecutor(2) as pool:
        for row in pool.map(lambda name: work(name, demo, folder), [name for name in names if name not in done]):
            rows.append(row)
            keep(rows)  # as soon as it is there, so that a run that is ended can be gone on with
            state = "on" if row.ended.get("enable") == 0 else f"off: {row.refused[:60]}"
            print(f"{kit} {row.module:<32} {row.seconds:6.1f} s  {state}  {' '.join(sorted(row.findings))}", flush=True)
    return rows


def keep(rows: list[Row]) -> None:
    """Keep what was seen; of modules that were not tried now, what was seen before stays."""
    RESULTS.mkdir(exist_ok=True)
    before = kept()
    for kit in dict.fromkeys(row.host for row in rows):
        known = {row.module: row for row in (*before, *rows) if row.host == kit}
        own = [asdict(known[module]) for module in sorted(known)]
        (RESULTS / f"{kit}.json").write_text(json.dumps(own, indent=1) + "\n", "utf-8")


def kept() -> list[Row]:
    """Return what was seen last of every kit."""
    return [Row(**one) for path in sorted(RESULTS.glob("*.json")) for one in json.loads(path.read_text("utf-8"))]


def main(words: list[str]) -> int:
    """Try all of them; returns 1 when something crashed, or was found that nobody has looked at."""
    parser = argparse.ArgumentParser(prog="tools/survey_real.py", description=__doc__)
    parser.add_argument("only", metavar="KIT|MODULE", nargs="*", help="only these")
    parser.add_argument("--go-on", action="store_true", help="go on with a run that was ended")
    options = parser.parse_args(words)
    kits = [one for one in options.only if one in ("django", "trytond", "wordpress")]
    chosen = [one for one in options.only if one not in kits]
    kits = kits or ["django", "trytond", "wordpress"]
    rows: list[Row] = []
    with tempfile.TemporaryDirectory(dir="/dev/shm" if Path("/dev/shm").is_dir() else None) as place:
        folder = Path(place).resolve()
        if "django" in kits:
            names = [one for one in apps() if not chosen or one in chosen]
            rows += in_turn(on_django, names, "django", folder, options.go_on)
        if "trytond" in kits:
            library = next(PYTHONS["trytond"].parent.parent.glob("lib/python3*/site-packages/trytond/modules"))
            found = sorted(path.name for path in library.iterdir() if (path / "tryton.cfg").is_file())
            names = [one for one in found if not chosen or one in chosen]
            rows += in_turn(on_trytond, names, "trytond", folder, options.go_on)
        if "wordpress" in kits and (WORDPRESS / "ready").exists():
            demo = folder / "demo-wordpress"
            demo.mkdir()
            kit_named("wordpress").build_demo(demo, HostOptions(str(WORDPRESS)))
            plugins = WORDPRESS / "others"
            folders = [path for path in plugins.rglob("plugins/*") if path.is_dir()] + [plugins / "akismet"]
            for path in dict.fromkeys(folders):
                shutil.copytree(path, demo / "wp-content/plugins" / path.name, dirs_exist_ok=True)
            rows += on_wordpress([path.name for path in dict.fromkeys(folders)], demo)
    known = reviewed()
    open_ = [(row, code) for row in rows for code in row.findings if (row.host, row.module, code) not in known]
    for row, code in open_:
        print(f"not reviewed: {row.host} {row.module} {code}: {row.findings[code]}")
    for row in rows:
        for crash in row.crashed:
            print(f"crashed: {row.host} {row.module} {crash}")
    if not chosen:
        keep(rows)
        PAGE.write_text(page(kept(), known), "utf-8")
    crashes = sum(len(row.crashed) for row in rows)
    print(f"{len(rows)} modules, {crashes} crashes, {len(open_)} findings not reviewed")
    return 1 if crashes or open_ else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
