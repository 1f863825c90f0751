"""Described: the brief says what the module carries, and the module carries what the brief says."""

from __future__ import annotations

from collections.abc import Iterator

from .....core.brief import BRIEF_FILE
from .....core.findings import Finding
from .....core.tomlplaces import line_of
from ...registration import brief_of
from ..examination import Examination

#  the kinds whose parts can be told from code as surely as from the brief
COMPARED = ("record", "permission", "group", "page", "menu", "block", "command", "setting")


def brief_and_code(one: Examination) -> Iterator[Finding]:
    """Parts that only the brief names, or only the code holds."""
    brief = brief_of(one.module)
    if brief is None or any(source.broken for source in one.sources):
        return
    from ...reading.parts import read_parts

    read = read_parts(one.view, one.module)
    path = one.module.folder / BRIEF_FILE
    sure = not one.module.urls or bool(one.addresses)  # a module that is off has no whole addresses yet
    text = ""
    for kind in COMPARED:
        if kind in ("page", "menu") and not sure:
            continue
        said = {part.key: index for index, part in enumerate(brief.parts(kind))}
        there = {part.key for part in read.brief.parts(kind)}
        if kind == "page":
            said |= {other: said[page.path] for page in brief.pages for other in page.also}
            there |= {key.rpartition("/{pk: integer}")[0] for key in there}
        for key, index in said.items():
            if key not in there:
                text = text or path.read_text("utf-8", "replace")
                line = line_of(text, (kind, index))
                yield one.find("described.part-not-in-code", path, line, kind=kind, name=key)
        for key in there - set(said):
            if (kind, key) in read.places:
                file, line = read.places[kind, key]
                values = {"kind": kind, "name": key, "brief": one.view.relative(path)}
                yield one.find("described.part-not-in-brief", file, line, **values)


def conflict_marks(one: Examination) -> Iterator[Finding]:
    """Marks that a merge left in a file, which no parser reads."""
    for path in sorted(one.module.folder.rglob("*")):
        if path.suffix not in (".py", ".html", ".po", ".json", ".toml", ".css", ".js") or not path.is_file():
            continue
        content = path.read_bytes()
        if b"<<<<<<< " in content and b"\n>>>>>>> " in content:
            at = (b"\n" + content).find(b"\n<<<<<<< ")
            if at >= 0:
                yield one.find("described.conflict-marks", path, content.count(b"\n", 0, at) + 1)


STATIC = (brief_and_code, conflict_marks)
