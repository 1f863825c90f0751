"""Enabled: what the module's files import of the host's own code, and of Django, is there."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from .....python.bindings import is_absent_from, names_bound
from ...reading.code import Imported, imports_below, imports_of, nodes_of, relative_to
from ...reading.project import Source
from ..examination import Examination

#  the packages of others that are read as well: those whose names come and go with their versions
_READ_TOO = ("django",)


def absent(exam: Examination) -> Iterator[Finding]:
    """Imports of names that the file they are taken from does not bind, and of files that are not there."""
    for source in _files(exam):
        if source.tree is None:
            continue
        dotted = exam.dotted(source.place)
        package = dotted if source.name == "__init__.py" else dotted.rpartition(".")[0]
        for imported in [*imports_of(source.tree), *_when_ready(source)]:
            if not imported.soft and imported.module:
                yield from _judge(exam, source, imported, relative_to(imported.module, package))


def _files(exam: Examination) -> list[Source]:
    """Return the files that the host loads, and its console commands, which are loaded when they are run."""
    found = {source.place: source for source in exam.loaded}
    found.update((source.place, source) for source in exam.sources if "/management/commands/" in source.place)
    return list(found.values())


def _when_ready(source: Source) -> Iterator[Imported]:
    """Yield the imports of ``ready()``, which the host calls at its start."""
    for node in nodes_of(source.tree) if source.tree is not None and source.name == "apps.py" else ():
        if isinstance(node, ast.FunctionDef) and node.name == "ready":
            yield from imports_below(node.body)


def _judge(exam: Examination, source: Source, imported: Imported, target: str) -> Iterator[Finding]:
    project = exam.view.project
    file, folder = project.file_of(target), project.folder_of(target)
    if file is None and folder is None:
        top = target.partition(".")[0]
        if project.folder_of(top) is not None and "." in target:
            yield _finding(exam, source, imported.line, target, "")
        elif top in _READ_TOO:
            yield from _of_package(exam, source, imported, target)
        return
    if not imported.names or file is None:
        return
    parsed = project.parse(file)
    if parsed is None or parsed.tree is None:
        return
    words = [name for name in imported.names if not parsed.mentions(name)]  # most are there: no need to look closer
    bound = names_bound(parsed.tree) if words else None
    if bound is None:
        return
    for name in words:
        inside = f"{target}.{name}"
        if name != "*" and name not in bound and not project.file_of(inside) and not project.folder_of(inside):
            match = nearest(name, bound)
            yield _finding(exam, source, imported.line, inside, said_near(match))


def _of_package(exam: Examination, source: Source, imported: Imported, target: str) -> Iterator[Finding]:
    interpreter = exam.view.interpreter
    for library in interpreter.libraries if interpreter is not None else ():
        place = library.joinpath(*target.split("."))
        if not place.parent.is_dir() or not library.joinpath(target.partition(".")[0]).is_dir():
            continue
        file = place / "__init__.py" if place.is_dir() else place.with_suffix(".py")
        if not file.exists() and not place.is_dir():
            compiled = list(place.parent.glob(f"{place.name}.*"))  # an extension module
            if not compiled:
                yield _finding(exam, source, imported.line, target, "")
            return
        for name in imported.names:
            inside = place / name
            there = inside.is_dir() or inside.with_suffix(".py").exists()
            if name != "*" and not there and _has_not(file, name):
                yield _finding(exam, source, imported.line, f"{target}.{name}", "")
        return


def _has_not(file: Path, name: str) -> bool:
    return file.exists() and is_absent_from(file, name)


def _finding(exam: Examination, source: Source, line: int, target: str, near: str) -> Finding:
    return exam.find("enabled.import-absent", source.path, line, target=target, nearest=near)


STATIC = (absent,)
