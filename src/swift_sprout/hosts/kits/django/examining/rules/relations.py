"""Enabled: the records that a module's records point at, by label and name, are there."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from ......core.findings import Finding
from ......core.nearest import misspelt, nearest, said_near
from ...reading.code import nodes_of, spelled
from ...reading.modules import ModuleFiles
from ...reading.packages import names_in_package
from ..examination import Examination

#  fields that take a model as their first argument or as ``to`` (Django 5.2), as others derive theirs from them
_RELATIONS = ("ForeignKey", "OneToOneField", "ManyToManyField", "ParentalKey", "ParentalManyToManyField")
#  classes that other packages make beside a model, so that no file of the host holds them
_MADE_BESIDE = ("historical", "_")


class _Target(NamedTuple):
    """What a field points at: label and name, and the line that says so."""

    label: str
    name: str
    path: Path
    line: int


def targets(exam: Examination) -> Iterator[Finding]:
    """Fields that point at a record which its module does not have."""
    for target in _targets(exam):
        module = exam.view.labels.get(target.label)
        if module is None:
            yield from _absent_in_package(exam, target)
            continue
        if target.name.lower().startswith(_MADE_BESIDE):
            continue
        classes, others = _names_in(exam, module)
        further = _taken_from_packages(exam, module)
        if further is None or target.name.lower() in {name.lower() for name in classes | others | further}:
            continue
        classes |= further
        match = nearest(target.name, classes)
        near = said_near(match)
        said = {"target": f"{target.label}.{target.name}", "other": module.name, "nearest": near}
        yield exam.find("enabled.relation-absent", target.path, target.line, **said)


def _absent_in_package(exam: Examination, target: _Target) -> Iterator[Finding]:
    """Yield a record that an installed package lacks but for one of nearly that name."""
    package = next(iter(exam.view.claims.labels.get(target.label, ())), "")
    names = names_in_package(exam.view, f"{package}.models") if package else None
    known = {name.lower(): name for name in names or ()}
    near = misspelt(target.name.lower(), known) if target.name.lower() not in known else None
    if near is not None:
        said = {"target": f"{target.label}.{target.name}", "other": package, "nearest": said_near(known[near])}
        yield exam.find("enabled.relation-absent", target.path, target.line, **said)


def label(exam: Examination) -> Iterator[Finding]:
    """A label that is not the one by which the module's own records and migrations name it."""
    module, own = exam.module, exam.module.name.rpartition(".")[2]
    config = module.config
    if config is None or module.label == own or own in exam.view.labels:
        return
    using = next((target for target in _targets(exam) if target.label == own), None) or _in_migrations(exam, own)
    if using is not None:
        line = config.values["label"][1]
        place = f"{exam.view.relative(using.path)}:{using.line}"
        yield exam.find(
            "described.label-other", module.folder / "apps.py", line, said=module.label, asked=own, by=place
        )


def _targets(exam: Examination) -> Iterator[_Target]:
    """Yield what the fields of the module's records point at by name, and the records whose signals it listens to."""
    for path, record in exam.model_classes():
        for node in ast.walk(record):
            if not isinstance(node, ast.Call) or spelled(node.func).rpartition(".")[2] not in _RELATIONS:
                continue
            said = [*node.args[:1], *(key.value for key in node.keywords if key.arg in ("to", "through"))]
            for value in said:
                if isinstance(value, ast.Constant) and isinstance(value.value, str) and value.value != "self":
                    app, _, name = value.value.rpartition(".")
                    if app or not _is_abstract(record):
                        yield _Target(app or exam.module.label, name, path, value.lineno)
    for source in exam.sources:
        for node in nodes_of(source.tree) if source.tree is not None and source.mentions("sender=") else ():
            for key in node.keywords if isinstance(node, ast.Call) else ():
                text = key.value.value if isinstance(key.value, ast.Constant) else None
                if key.arg == "sender" and isinstance(text, str) and text.count(".") == 1:
                    app, _, name = text.partition(".")
                    yield _Target(app, name, source.path, key.value.lineno)


def _is_abstract(record: ast.ClassDef) -> bool:
    return any(isinstance(node, ast.ClassDef) and "abstract" in ast.unparse(node) for node in record.body)


def _names_in(exam: Examination, module: ModuleFiles) -> tuple[set[str], set[str]]:
    """Return the names of a module's classes, and every other one that its files bind: what may be a record of it."""
    classes: set[str] = set()
    found: set[str] = set()
    for source in exam.sources_of(module):
        if source.tree is None or "migrations" in source.path.parts:
            continue
        for node in ast.walk(source.tree):
            if isinstance(node, ast.ClassDef):
                classes.add(node.name)
            elif isinstance(node, ast.alias):
                found.add((node.asname or node.name).rpartition(".")[2])
            elif isinstance(node, ast.Assign):
                found.update(target.id for target in node.targets if isinstance(target, ast.Name))
            elif isinstance(node, ast.Call) and spelled(node.func) in ("type", "create_model") and node.args:
                found.add(str(getattr(node.args[0], "value", "")))
    return classes, found


def _taken_from_packages(exam: Examination, module: ModuleFiles) -> set[str] | None:
    """Return the classes that a module's files take whole from packages; None where a package's file is not found."""
    found: set[str] = set()
    for source in exam.sources_of(module):
        for node in source.tree.body if source.tree is not None and source.mentions("*") else ():
            if isinstance(node, ast.ImportFrom) and node.names[0].name == "*" and not node.level and node.module:
                names = names_in_package(exam.view, node.module)
                if names is None and exam.view.project.file_of(node.module) is None:
                    return None
                found |= names or set()
    return found


def _in_migrations(exam: Examination, asked: str) -> _Target | None:
    """Return where a migration of the module depends on another one of it under a label."""
    for migration in exam.migrations:
        source = exam.view.project.parse(f"{exam.module.place}/migrations/{migration}.py")
        for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
            if isinstance(node, ast.Tuple) and len(node.elts) == 2:
                app, name = (getattr(one, "value", None) for one in node.elts)
                if app == asked and name in exam.migrations:
                    return _Target(asked, str(name), source.path, node.lineno)  # type: ignore[union-attr]
    return None


def label_before(exam: Examination) -> Iterator[Finding]:
    """A label that is new: the database knows the module's migrations under its plain name."""
    assert exam.live is not None
    module, own = exam.module, exam.module.name.rpartition(".")[2]
    if module.config is None or module.label == own or own in exam.view.labels:
        return
    if exam.live.migrations("applied", own) and not exam.live.migrations("applied", module.label):
        line = module.config.values["label"][1]
        by = "the database, which has its migrations under that name"
        yield exam.find("described.label-other", module.folder / "apps.py", line, said=module.label, asked=own, by=by)


STATIC = (label, targets)
LIVE = (label_before,)
