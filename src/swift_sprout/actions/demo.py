"""``demo``: the Brindle Quay host of a kit, and the story of one module on it, told by the real commands."""

from __future__ import annotations

import shlex
import shutil
import sys
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

from ..core.brief import brief_from_toml
from ..core.errors import HostFailed, Refused
from ..core.parts.kinds import KINDS
from ..hosts.contract.kit import HostOptions, Kit
from ..hosts.contract.kitfacts import FurtherScene
from ..hosts.shared.demo import brief_path
from ..reports.terminal import Terminal

#  a sentence, the command line, the options that it is run with, and its exit status
Scene = tuple[str, list[str], list[str], int]
BRIEFS = ("tide_board", "berth_register")


def build_host(folder: str | None, kit: Kit, runtime: str | None) -> tuple[Path, HostOptions]:
    """Build the Brindle Quay host of a kit in a new folder; raises Refused when the folder is there.

    Returns the folder, and how to work on the host.
    """
    target = Path(folder) if folder else _free_folder()
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise Refused("folder-taken", f"{target} is there already; nothing was changed.", "Name another folder.")
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise Refused("cannot-write", f"Cannot build the host in {target}: {error}.", "Name another folder.") from None
    try:
        made = kit.build_demo(target, HostOptions(runtime))
    except HostFailed as error:
        if error.code == "no-interpreter":
            target.rmdir()
        raise
    for brief in (*BRIEFS, *(scene.brief for scene in kit.data.facts.demo.further)):
        shutil.copy(brief_path(kit.data, brief), target / f"{brief}.toml")
    return target.resolve(), made


def _carries(kit: Kit, brief: Path) -> bool:
    """True when modules of a kit can carry every kind of part that a brief holds."""
    held = brief_from_toml(brief.read_text("utf-8"), str(brief))
    return all(kind in kit.data.parts for kind in KINDS if held.parts(kind))


def _scenes_of(told: FurtherScene, folder: Path, shared: list[str], runs: list[str]) -> Iterator[Scene]:
    """Yield the scenes of one more module."""
    brief = told.brief
    yield told.says, ["new", "--brief", str(folder / f"{brief}.toml"), "--short"], runs, 0
    yield "Switched on, with what it brings.", ["enable", brief, "--short"], runs, 0
    if told.samples:
        yield told.samples, ["settle", brief, "--samples"], runs, 0
    yield told.asks, ["check", brief], runs, 0
    if told.content:
        yield told.content, ["content", "take", brief], runs, 0


def _free_folder() -> Path:
    number = 1
    while (folder := Path("brindle-quay" if number == 1 else f"brindle-quay-{number}")).exists():
        number += 1
    return folder


def story(out: Terminal, folder: Path, kit: Kit, options: HostOptions, command: Callable[[Sequence[str]], int]) -> int:
    """Tell the story; ``command`` runs one command line of this program. Returns 0 when all went as it should."""
    shared = ["--host", str(folder)]
    runtime = str(options.runtime or "")
    runs = [*shared, *(["--runtime", runtime] if runtime else [])]
    tides, berths = (str(folder / f"{brief}.toml") for brief in BRIEFS)
    scenes: list[Scene] = [
        ("The harbour's host has two modules of its own. What is there?", ["survey"], runs, 0),
        (
            "The office wants the tides on a page. A brief says what the module is.",
            ["new", "--brief", tides],
            shared,
            0,
        ),
        ("Is it served? Not yet: the host was not told of it.", ["check", "tide_board"], runs, 1),
        ("So it is switched on, and its table made.", ["enable", "tide_board"], runs, 0),
        ("Now the running host is asked again.", ["check", "tide_board"], runs, 0),
        (
            "Now the big one: records, groups, pages, a menu, a block on the front page, and more, from one brief.",
            ["new", "--brief", berths, "--short"],
            shared,
            0,
        ),
        (
            "Switched on: its groups get their rights, its block its place.",
            ["enable", "berth_register", "--short"],
            runs,
            0,
        ),
        (
            "The harbour wants to know where boats may anchor, too: one more part.",
            ["add", "record", "Anchorage: name text(40), depth_m decimal(4,1)", "--to", "berth_register", "--short"],
            shared,
            0,
        ),
        ("Its table, and the sample bookings.", ["settle", "berth_register", "--samples"], runs, 0),
        ("Who may do what?", ["show", "rights", "berth_register"], runs, 0),
        ("Why does a visitor not see who comes when?", ["why", "berth_register", "Who comes when"], runs, 1),
        *(scene for told in kit.data.facts.demo.further for scene in _scenes_of(told, folder, shared, runs)),
        ("What needs what?", ["graph"], shared, 0),
        ("And nothing else was harmed.", ["check"], runs, 0),
    ]
    carries = _carries(kit, folder / f"{BRIEFS[1]}.toml")
    if not carries:
        refused = (
            "The big one asks for groups and menus, which this host has not; that is said.",
            scenes[5][1],
            shared,
            2,
        )
        scenes = [*scenes[:5], refused, ("What needs what?", ["graph"], shared, 0), scenes[-1]]
    out.line(out.style("Brindle Quay, a harbour town", "strong") + f"  {out.path(str(folder))}")
    for title, words, more, expected in scenes:
        out.line()
        out.line(out.style(f"── {title}", "head"))
        spelled = shlex.join(words).replace(f"{folder}/", "")
        out.line(out.style(f"$ swift-sprout {spelled}", "strong"))
        out.line()
        out.stream.flush()
        status = command([*words, *more])
        if status != expected:
            out.line()
            out.line(f"That should have ended with status {expected}, but ended with {status}.")
            return status or 1
    out.line()
    out.line(out.style("The host stays for exploring:", "strong") + f" {out.path(str(folder))}")
    own = runtime in ("", str(Path(sys.prefix) / "bin/python"))
    runtime_option = "" if own else f" --runtime {out.path(runtime)}"
    out.line("  cd " + out.path(str(folder)))
    modules = ["tide_board", "berth_register"] if carries else ["tide_board"]
    page = '"/low-water: When the water is low" --to tide_board'
    if carries:
        page = '"/anchorages: Where to anchor, shows Anchorage" --to berth_register'
    for line in (
        f"swift-sprout serve{runtime_option}",
        f"swift-sprout disable tide_board --preview{runtime_option}",
        "swift-sprout undo --preview",
        f"swift-sprout add page {page} --preview",
        f"swift-sprout show files {modules[-1]}",
        f"swift-sprout test {' '.join(modules)}{runtime_option}",
    ):
        out.command(line)
    return 0
