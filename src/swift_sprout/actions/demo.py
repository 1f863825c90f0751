"""``demo``: the Brindle Quay site, and the story of one module on it, told by the real commands."""

from __future__ import annotations

import shlex
import shutil
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from ..core.errors import HostFailed, Refused
from ..reports.terminal import Terminal
from ..running.interpreter import Interpreter, find_interpreter
from ..running.process import run

WORLD = Path(__file__).parent.parent / "demo_world"
BRIEFS = ("tide_board.toml", "berth_register.toml")


def interpreter_for_demo(given: str | None) -> Interpreter:
    """Return an interpreter that has the demo's host; raises HostFailed when there is none."""
    search = find_interpreter(given, Path.cwd(), "django", (".venv", "venv", "env"))
    if search.found is None:
        raise HostFailed(
            "no-interpreter",
            "The demo needs an interpreter with Django 5.2.",
            "Run `make demo`, which makes one, or name one with --python PATH.",
        )
    return search.found


def build_site(folder: str | None, python: Interpreter) -> Path:
    """Build the Brindle Quay site in a new folder and fill its database; raises Refused when the folder is there."""
    target = Path(folder) if folder else _free_folder()
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise Refused("folder-taken", f"{target} is there already; nothing was changed.", "Name another folder.")
    try:
        shutil.copytree(
            WORLD / "django", target, dirs_exist_ok=True, ignore=shutil.ignore_patterns("__pycache__", "*.pyc")
        )
        for brief in BRIEFS:
            shutil.copy(WORLD / brief, target / brief)
    except OSError as error:
        raise Refused("cannot-write", f"Cannot build the site in {target}: {error}.", "Name another folder.") from None
    ended = run([str(python.path), "manage.py", "migrate", "--no-input", "-v", "0"], target, 120)
    if ended.status != 0:
        lines = ended.output.strip().splitlines() or ["it printed nothing"]
        raise HostFailed(
            "demo-site", f"The demo site does not start: {lines[-1]}", "Look at its folder: " + str(target)
        )
    return target.resolve()


def _free_folder() -> Path:
    number = 1
    while (folder := Path("brindle-quay" if number == 1 else f"brindle-quay-{number}")).exists():
        number += 1
    return folder


def story(out: Terminal, folder: Path, python: Interpreter, command: Callable[[Sequence[str]], int]) -> int:
    """Tell the story; ``command`` runs one command line of this program. Returns 0 when all went as it should."""
    shared = ["--host", str(folder)]
    runs = [*shared, "--python", str(python.path)]
    tides, berths = (str(folder / brief) for brief in BRIEFS)
    scenes: list[tuple[str, list[str], list[str], int]] = [
        ("The harbour's site has two modules of its own. What is there?", ["survey"], runs, 0),
        (
            "The office wants the tides on a page. A brief says what the module is.",
            ["new", "--brief", tides],
            shared,
            0,
        ),
        ("Is it served? Not yet: the host was not told of it.", ["check", "tide_board"], runs, 1),
        ("So it is switched on: one entry, one address, its table.", ["enable", "tide_board"], runs, 0),
        ("Now the running host is asked again.", ["check", "tide_board"], runs, 0),
        (
            "Now the big one: records, groups, pages, a menu, a block on the front page, and more, from one brief.",
            ["new", "--brief", berths, "-q"],
            shared,
            0,
        ),
        ("Switched on: its groups get their rights, its block its place.", ["enable", "berth_register", "-q"], runs, 0),
        (
            "The harbour wants to know where boats may anchor, too: one more part.",
            ["add", "record", "Anchorage: name text(40), depth_m decimal(4,1)", "--to", "berth_register", "-q"],
            shared,
            0,
        ),
        ("Its table, and the sample bookings.", ["settle", "berth_register", "--samples"], runs, 0),
        ("Who may do what?", ["show", "rights", "berth_register"], runs, 0),
        ("Why does a visitor not see who comes when?", ["why", "berth_register", "Who comes when"], runs, 1),
        ("What needs what?", ["graph"], shared, 0),
        ("And nothing else was harmed.", ["check"], runs, 0),
    ]
    out.line(out.style("Brindle Quay, a harbour town", "strong") + f"  {out.path(str(folder))}")
    for title, words, options, expected in scenes:
        out.line()
        out.line(out.style(f"── {title}", "head"))
        spelled = shlex.join(words).replace(f"{folder}/", "")
        out.line(out.style(f"$ swift-sprout {spelled}", "strong"))
        out.line()
        out.stream.flush()
        status = command([*words, *options])
        if status != expected:
            out.line()
            out.line(f"That should have ended with status {expected}, but ended with {status}.")
            return status or 1
    out.line()
    out.line(out.style("The site stays for exploring:", "strong") + f" {out.path(str(folder))}")
    python_option = "" if python.path == Path(sys.prefix) / "bin/python" else f" --python {out.path(str(python.path))}"
    out.line("  cd " + out.path(str(folder)))
    for line in (
        f"swift-sprout serve{python_option}",
        f"swift-sprout disable tide_board --preview{python_option}",
        "swift-sprout undo --preview",
        'swift-sprout add page "/anchorages: Where to anchor, shows Anchorage" --to berth_register --preview',
        "swift-sprout show files berth_register",
        f"{out.path(str(python.path))} manage.py test tide_board berth_register",
    ):
        out.line("  " + line)
    return 0
