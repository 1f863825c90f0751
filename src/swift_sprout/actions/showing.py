"""``show`` and ``graph``: what people would otherwise compute in their heads."""

from __future__ import annotations

import fnmatch
import re
from pathlib import Path

from ..core.brief import BRIEF_FILE
from ..core.errors import HostFailed
from ..core.made import MADE_FILE
from ..core.names import NameFamily
from ..core.tables import Table
from .hosting import OpenHost
from .modulefiles import ModuleOnDisk

TABLES = ("names", "routes", "rights", "order", "placements", "files")


def table(opened: OpenHost, what: str, name: str, live: bool) -> Table:
    """Return one of TABLES for a module; ``live`` lets the running host be asked where that tells more."""
    module = ModuleOnDisk(opened, name)
    if what == "names":
        return _names(opened, module)
    if what == "files":
        return _files(opened, module)
    if what == "rights" and live:
        try:
            return opened.host.show(what, module.name, True)
        except HostFailed as error:
            if error.code != "no-interpreter":
                raise
    return opened.host.show(what, module.name, live and what == "order")


def _names(opened: OpenHost, module: ModuleOnDisk) -> Table:
    """Every spelling of the module's name and of its records' names, with the places where each stands."""
    brief = module.brief or opened.host.read_brief(module.name).brief
    families: list[tuple[str, NameFamily]] = [("module", brief.name)]
    families += [(f"record {record.name.title}", record.name) for record in brief.records]
    texts = _texts(opened, module)
    rows: list[tuple[str, ...]] = []
    for owner, family in families:
        seen: set[str] = set()
        for spelling, written in family.spellings().items():
            if written in seen:
                continue
            seen.add(written)
            places = _places(texts, written)
            more = f" and {len(places) - 3} more" if len(places) > 3 else ""
            rows.append((owner, spelling, written, ", ".join(places[:3]) + more if places else "–"))
            owner = ""
    notes = [f"places are told from {module.folder}/; others begin with ../"]
    return Table("names", ("of", "spelling", "name", "stands in"), rows, notes)


def _texts(opened: OpenHost, module: ModuleOnDisk) -> dict[str, str]:
    """Return the texts of the module's files, and of the code at the top of the host and of its modules."""
    root, sources = opened.host.root, opened.kit.data.facts.sources
    paths = sorted(module.path.rglob("*"))
    for top in dict.fromkeys((root, module.path.parent)):
        for pattern in (f"{folder}*{ending}" for ending in sources.code for folder in ("", "*/")):
            paths += sorted(top.glob(pattern))
    found = {}
    for path in dict.fromkeys(paths):
        if sources.skipped & set(path.relative_to(root).parts):
            continue
        if path.is_file() and path.suffix in sources.endings and path.name != BRIEF_FILE:
            inside = module.path in path.parents
            name = path.relative_to(module.path).as_posix() if inside else f"../{path.relative_to(root).as_posix()}"
            found[name] = path.read_text("utf-8", "replace")
    return found


def _places(texts: dict[str, str], word: str) -> list[str]:
    pattern = re.compile(rf"(?<!\w){re.escape(word)}(?!\w)")
    found = []
    for path, text in texts.items():
        match = pattern.search(text)
        if match:
            found.append(f"{path}:{text.count(chr(10), 0, match.start()) + 1}")
    return found


def _files(opened: OpenHost, module: ModuleOnDisk) -> Table:
    """Each file of a module, what it is for, and whether it is as it was made."""
    label = module.name.rpartition(".")[2]
    purposes = _purposes(opened, label)
    skipped = opened.kit.data.facts.sources.skipped
    apart = opened.kit.data.facts.made_once
    made = module.made.files if module.made is not None else {}
    rows: list[tuple[str, ...]] = []
    for path in sorted(module.path.rglob("*")):
        name = path.relative_to(module.path).as_posix()
        if not path.is_file() or skipped & set(Path(name).parts):
            continue
        purpose = next((why for pattern, why in purposes if fnmatch.fnmatch(name, pattern)), "")
        state = "made by hand"
        if name in made:
            state = "as it was made" if path.read_bytes() == made[name] else "changed since"
        elif name == MADE_FILE or any(fnmatch.fnmatch(name, one) for one in apart):
            state = ""
        rows.append((name, purpose, state if made else ""))
    gone = [name for name in made if not (module.path / name).exists()]
    return Table(
        "files", ("file", "what it is for", "state"), rows, [f"{name} was taken away by hand" for name in gone]
    )


def _purposes(opened: OpenHost, label: str) -> list[tuple[str, str]]:
    facts = opened.kit.data.facts
    found = []
    for entry in facts.file:
        pattern = re.sub(r"\{(?!label)\w+\}", "*", entry.writes).replace("{label}", label)
        found.append((pattern, entry.why))
    others = list(facts.other_files.items())
    return sorted([*found, *others], key=lambda one: -len(one[0].replace("*", "")))
