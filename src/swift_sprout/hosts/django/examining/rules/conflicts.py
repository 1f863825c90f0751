"""Compatible: two modules that get into each other's way, and packages that are not there."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

from .....core.findings import Finding
from .....core.nearest import nearest
from ...reading.code import imports, meta_text
from ...reading.modules import ModuleFiles
from ..examination import Examination


def _others(one: Examination) -> Iterator[tuple[ModuleFiles, bool]]:
    """Yield every other enabled module, and whether the host takes it before this one."""
    mine = one.view.position(one.module)
    for other in one.view.modules if mine is not None else ():
        theirs = one.view.position(other)
        if other.name != one.module.name and theirs is not None and mine is not None:
            yield other, theirs < mine


def label(one: Examination) -> Iterator[Finding]:
    """Two listed modules with one label."""
    if one.view.entry_of(one.module) is None:
        return
    for other in one.view.listed:
        theirs = other.value.partition(".apps.")[0]
        module = one.view.module(theirs)
        label = module.label if module else theirs.rpartition(".")[2]
        if theirs != one.module.name and label == one.module.label:
            config = one.module.config
            if module is not None and not (config and "label" in config.values) and module.config:
                if "label" in module.config.values:
                    continue  # said of the other one, which took the label
            line = config.values["label"][1] if config and "label" in config.values else (config.line if config else 0)
            yield one.find("compatible.label-taken", one.module.folder / "apps.py", line, other=theirs)


def packages(one: Examination) -> Iterator[Finding]:
    """Imports of packages that the host's interpreter does not have."""
    interpreter = one.view.interpreter
    if interpreter is None or not interpreter.libraries:
        return
    installed = interpreter.top_level_names()
    for source in one.sources:
        for found in imports(source.tree) if source.tree is not None else ():
            top = found.module.split(".")[0]
            if found.soft or not top or top in sys.stdlib_module_names or top in installed:
                continue
            if one.view.project.folder_of(top) or one.view.project.file_of(top):
                continue
            if (source.path.parent / f"{top}.py").exists():
                continue
            match = nearest(top, installed)
            near = f" (nearest there: {match})" if match else ""
            yield one.find("compatible.package-absent", source.path, found.line, name=top, nearest=near)


def tables(one: Examination) -> Iterator[Finding]:
    """A record that uses another module's table."""
    for path, node in one.model_classes():
        said = meta_text(node, "db_table")
        if said is None:
            continue
        for other, _ in _others(one):
            if said.text in one.view.tables(other):
                values = {"record": node.name, "table": said.text, "other": other.name}
                yield one.find("compatible.table-taken", path, said.line, **values)


def commands(one: Examination) -> Iterator[Finding]:
    """A console command that another module's hides: the host takes the one listed first."""
    for path in _commands(one.module):
        for other, before in _others(one):
            if before and path.name in {theirs.name for theirs in _commands(other)}:
                yield one.find("compatible.command-taken", path, 1, other=other.name, command=path.stem)


def _commands(module: ModuleFiles) -> list[Path]:
    folder = module.folder / "management" / "commands"
    return [path for path in sorted(folder.glob("*.py")) if not path.name.startswith("_")]


def templates(one: Examination) -> Iterator[Finding]:
    """A template that another module's hides."""
    before = {other.name for other, first in _others(one) if first}
    for mine in one.view.templates.of(one.module):
        taken = one.view.templates.named(mine.name)
        if taken is not None and taken.owner in before:
            yield one.find("compatible.template-taken", mine.path, 1, other=taken.owner, template=mine.name)


def libraries(one: Examination) -> Iterator[Finding]:
    """A tag library of the same name in another module."""
    enabled = {other.name for other, _ in _others(one)}
    for mine in one.view.templates.libraries:
        for theirs in one.view.templates.libraries:
            later = mine.owner == one.module.name and theirs.name == mine.name and theirs.owner in enabled
            if later and _fewer(one, theirs.owner):
                yield one.find("compatible.library-taken", mine.path, 1, other=theirs.owner, library=mine.name)


def _fewer(one: Examination, other: str) -> bool:
    """Say a conflict of two once: for the module whose name the library has, else for the one listed later."""
    theirs = one.view.module(other)
    assert theirs is not None
    mine, their = one.view.position(one.module) or 0, one.view.position(theirs) or 0
    return mine > their


STATIC = (label, packages, tables, commands, templates, libraries)
