"""Compatible: two modules that get into each other's way, and packages that are not there."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator

from ......core.findings import Finding
from ......core.nearest import nearest
from ...reading.claims import commands_of
from ...reading.code import imports_of, meta_text, relative_to
from ...reading.project import Source
from ..examination import Examination


def label(one: Examination) -> Iterator[Finding]:
    """Two listed modules with one label."""
    if one.view.entry_of(one.module) is None:
        return
    config = one.module.config
    chosen = config is not None and "label" in config.values
    for theirs in one.view.claims.labels.get(one.module.label, ()):
        if theirs == one.module.name:
            continue
        other = one.view.module(theirs)
        if not chosen and other is not None and other.config is not None and "label" in other.config.values:
            continue  # said of the other one, which took the label
        line = config.values["label"][1] if config and chosen else (config.line if config else 0)
        yield one.find("compatible.label-taken", one.module.folder / "apps.py", line, other=theirs)


def packages(one: Examination) -> Iterator[Finding]:
    """Imports of packages that the host's interpreter does not have."""
    interpreter = one.view.interpreter
    if interpreter is None or not interpreter.libraries:
        return
    installed = one.view.installed
    for source in loaded(one):
        for found in imports_of(source.tree) if source.tree is not None else ():
            top = found.module.split(".")[0]
            if found.soft or not top or top in sys.stdlib_module_names or top in installed:
                continue
            if one.view.project.folder_of(top) or one.view.project.file_of(top):
                continue
            if os.path.exists(f"{source.place.rpartition('/')[0]}/{top}.py"):
                continue
            match = nearest(top, installed)
            near = f" (nearest there: {match})" if match else ""
            yield one.find("compatible.package-absent", source.path, found.line, name=top, nearest=near)


def loaded(one: Examination) -> list[Source]:
    """Return the files that the host is sure to load: those it looks for by name, and what they import."""
    by_name = {one.dotted(source.path): source for source in one.sources}
    base = one.module.name
    waiting = [base, *(f"{base}.{name}" for name in ("apps", "models", "admin", "urls"))]
    waiting += [name for name in by_name if name.startswith(f"{base}.templatetags.")]
    found: dict[str, Source] = {}
    while waiting:
        name = waiting.pop()
        source = by_name.get(name)
        if source is None or name in found:
            continue
        found[name] = source
        package = name if source.path.name == "__init__.py" else name.rpartition(".")[0]
        for each in imports_of(source.tree) if source.tree is not None else ():
            if not each.soft:
                target = relative_to(each.module, package)
                waiting += [target, *(f"{target}.{part}" for part in each.names)]
    return list(found.values())


def _others(one: Examination, owners: list[str]) -> tuple[list[str], list[str]]:
    """Return the other modules that claim the same: those that the host takes before this one, and those behind."""
    mine = one.view.position(one.module)
    if mine is None or one.module.name not in owners:
        return [], []
    at = owners.index(one.module.name)
    return owners[:at], owners[at + 1 :]


def tables(one: Examination) -> Iterator[Finding]:
    """A record that uses another module's table."""
    for path, node in one.model_classes():
        said = meta_text(node, "db_table")
        if said is None:
            continue
        before, behind = _others(one, one.view.claims.tables.get(said.text, []))
        for other in (*before, *behind):
            yield one.find("compatible.table-taken", path, said.line, record=node.name, table=said.text, other=other)


def commands(one: Examination) -> Iterator[Finding]:
    """A console command that another module's hides: the host takes the one listed first."""
    for claim in commands_of(one.module):
        before, _ = _others(one, one.view.claims.commands.get(claim.name, []))
        if before:
            yield one.find("compatible.command-taken", claim.path, 1, other=before[0], command=claim.name)


def templates(one: Examination) -> Iterator[Finding]:
    """A template that another module's hides."""
    for mine in one.module.templates:
        before, _ = _others(one, one.view.claims.templates.get(mine.name, []))
        if before:
            yield one.find("compatible.template-taken", mine.path, 1, other=before[0], template=mine.name)


def libraries(one: Examination) -> Iterator[Finding]:
    """A tag library of the same name in another module; said of the one listed later."""
    for mine in one.module.libraries:
        before, _ = _others(one, one.view.claims.libraries.get(mine.name, []))
        if before:
            yield one.find("compatible.library-taken", mine.path, 1, other=before[0], library=mine.name)


STATIC = (label, packages, tables, commands, templates, libraries)
