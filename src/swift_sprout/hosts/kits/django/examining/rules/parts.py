"""Described: the brief says what the module carries, and the module carries what the brief says."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping
from pathlib import Path

from ......core.brief import BRIEF_FILE, Brief
from ......core.findings import Finding
from ......core.made import MADE_FILE
from ......core.tomlplaces import line_of
from ......disk.guard import read_content
from ...reading.templates import marked_line
from ...registration import brief_of
from ..examination import Examination

#  the kinds whose parts can be told from code as surely as from the brief
COMPARED = ("record", "permission", "group", "page", "page_type", "staff_screen", "menu", "block", "command", "setting")
_TEXTS = (".po", ".json", ".toml", ".css", ".js")


def brief_and_code(exam: Examination) -> Iterator[Finding]:
    """Parts that only the brief names, or only the code holds."""
    brief = brief_of(exam.module)
    if brief is None or any(source.broken for source in exam.sources):
        return
    from ...reading.parts import part_names

    names = part_names(exam.view, exam.module)
    sure = not exam.module.urls or bool(exam.addresses)  # a module that is off has no whole addresses yet
    text = ""
    for kind in COMPARED:
        if kind in ("page", "page_type", "staff_screen", "menu") and not sure:
            continue
        said = {part.key: index for index, part in enumerate(brief.parts(kind))}
        there = {key for sort, key in names if sort == kind}
        if kind == "page":
            mount = exam.view.mount_of(exam.module)  # it may stand elsewhere than the brief says; the host decides that
            there = {key if key in said else _below(key, mount, said) for key in there}
            said |= {other: said[page.path] for page in brief.pages for other in page.also}
            #  the page of one record below its list belongs to the list's part
            below = {key for key in there if key.rpartition("/{pk: integer}")[0] in {*said, *there}}
            there = {key.rpartition("/{pk: integer}")[0] if key in below and key not in said else key for key in there}
        for key, index in said.items():
            if key not in there and not _is_spelled(exam, kind, key, brief):
                text = text or exam.module.brief_file.read_text("utf-8", "replace")
                line = line_of(text, (kind, index))
                yield exam.find("described.part-not-in-code", exam.module.brief_file, line, kind=kind, name=key)
        for key in sorted(there - set(said)):
            if (kind, key) in names:
                file, line = names[kind, key]
                values = {"kind": kind, "name": key, "brief": exam.view.relative(exam.module.brief_file)}
                yield exam.find("described.part-not-in-brief", file, line, **values)


def _is_spelled(exam: Examination, kind: str, key: str, brief: Brief) -> bool:
    """True where code of the module spells a part's name all the same: it has it in a form that reading cannot tell."""
    if kind in ("record", "page_type", "block", "command"):
        return False  # these are classes, functions and files: they are told by their names
    if kind == "page":
        own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
        return own is not None and not own.sure
    named = {group.key: group.name.title for group in brief.groups} if kind == "group" else {}
    text = named.get(key) or key.rpartition(": ")[2].strip("/")
    spelled_as = [f'"{text}"', f"'{text}'", f'"{text}/"', f"'{text}/'", f"{text} ="]
    return bool(text) and any(
        one in source.source.text for source in exam.sources if source.source is not None for one in spelled_as
    )


def _below(path: str, mount: str, said: Mapping[str, int]) -> str:
    """Return an address as a brief says it that does not know where the module stands; else the address itself."""
    inner = "/" + path.removeprefix(mount) if mount != "/" and path.startswith(mount) else path
    listed = inner.rpartition("/{pk: integer}")[0] or inner
    return inner if inner in said or listed in said else path


def conflict_marks(exam: Examination) -> Iterator[Finding]:
    """Marks that a merge left in a file, which no parser reads."""
    marked = [(source.path, _marked_line(source.place)) for source in exam.sources if source.broken]
    marked += [(template.path, template.marked) for template in exam.module.templates if template.marked]
    if exam.module.has(MADE_FILE):
        names = [name for name in exam.module.names if name.endswith(_TEXTS) and name != BRIEF_FILE]
        texts = [f"{exam.module.place}/{name}" for name in names]
        texts += [path for where in ("locale", "static") if exam.module.has(where) for path in _texts(exam, where)]
        marked += [(Path(path), _marked_line(path)) for path in texts]
        marked.append((exam.module.brief_file, marked_line(exam.module.brief_text.encode())))
    for path, line in marked:
        if line:
            yield exam.find("described.conflict-marks", path, line)


def _marked_line(path: str) -> int:
    try:
        return marked_line(read_content(path))
    except OSError:
        return 0


def _texts(exam: Examination, folder: str) -> Iterator[str]:
    """Yield the files below a folder of the module that are neither code nor templates."""
    for where, _, names in os.walk(f"{exam.module.place}/{folder}"):
        yield from (f"{where}/{name}" for name in names if name.endswith(_TEXTS))


STATIC = (brief_and_code, conflict_marks)
