"""Compatible: two modules that get into each other's way, and packages that are not there."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from ...reading.claims import commands_of
from ...reading.code import imports_of, meta_text
from ..examination import Examination


def label(exam: Examination) -> Iterator[Finding]:
    """Two listed modules with one label."""
    if exam.view.entry_of(exam.module) is None:
        return
    config = exam.module.config
    chosen = config is not None and "label" in config.values
    for theirs in exam.view.claims.labels.get(exam.module.label, ()):
        if theirs == exam.module.name:
            continue
        other = exam.view.module(theirs)
        if not chosen and other is not None and other.config is not None and "label" in other.config.values:
            continue  # said of the other one, which took the label
        line = config.values["label"][1] if config and chosen else (config.line if config else 0)
        yield exam.find("compatible.label-taken", exam.module.folder / "apps.py", line, other=theirs)


def packages(exam: Examination) -> Iterator[Finding]:
    """Imports of packages that the host's interpreter does not have."""
    interpreter = exam.view.interpreter
    if interpreter is None or not interpreter.libraries:
        return
    installed = exam.view.installed
    for source in exam.loaded:
        for found in imports_of(source.tree) if source.tree is not None else ():
            top = found.module.split(".")[0]
            if found.soft or not top or top in sys.stdlib_module_names or top in installed:
                continue
            if exam.view.project.folder_of(top) or exam.view.project.file_of(top):
                continue
            if os.path.exists(f"{source.place.rpartition('/')[0]}/{top}.py"):
                continue
            match = nearest(top, installed)
            near = said_near(match)
            yield exam.find("compatible.package-absent", source.path, found.line, name=top, nearest=near)


def _others(exam: Examination, owners: list[str]) -> tuple[list[str], list[str]]:
    """Return the other modules that claim the same: those that the host takes before this one, and those behind."""
    mine = exam.view.position(exam.module)
    if mine is None or exam.module.name not in owners:
        return [], []
    at = owners.index(exam.module.name)
    return owners[:at], owners[at + 1 :]


def tables(exam: Examination) -> Iterator[Finding]:
    """A record that uses another module's table."""
    for path, node in exam.model_classes():
        said = meta_text(node, "db_table")
        if said is None:
            continue
        before, behind = _others(exam, exam.view.claims.tables.get(said.text, []))
        for other in (*before, *behind):
            yield exam.find("compatible.table-taken", path, said.line, record=node.name, table=said.text, other=other)


def commands(exam: Examination) -> Iterator[Finding]:
    """A console command that another module's hides: the host takes the one listed first."""
    for claim in commands_of(exam.module):
        before, _ = _others(exam, exam.view.claims.commands.get(claim.name, []))
        if before:
            yield exam.find("compatible.command-taken", claim.path, 1, other=before[0], command=claim.name)


def templates(exam: Examination) -> Iterator[Finding]:
    """A template that another module's hides."""
    for mine in exam.module.templates:
        before, _ = _others(exam, exam.view.claims.templates.get(mine.name, []))
        if before:
            yield exam.find("compatible.template-taken", mine.path, 1, other=before[0], template=mine.name)


def libraries(exam: Examination) -> Iterator[Finding]:
    """A tag library of the same name in another module; said of the one listed later."""
    for mine in exam.module.libraries:
        before, _ = _others(exam, exam.view.claims.libraries.get(mine.name, []))
        if before:
            yield exam.find("compatible.library-taken", mine.path, 1, other=before[0], library=mine.name)


STATIC = (label, packages, tables, commands, templates, libraries)
