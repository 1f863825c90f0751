"""Installed: migrations on disk, applied, and true to the models."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator

from ......core.findings import Finding
from ...asking import last_place, said
from ...reading.code import meta_constant
from ..examination import Examination


def migrations_folder(one: Examination) -> Iterator[Finding]:
    """Models without a migrations package, or with one that the host does not see."""
    models = (
        []
        if one.migrations
        else [each for each in one.model_classes() if meta_constant(each[1], "abstract") is not True]
    )
    if models and not any(meta_constant(node, "managed") is False for _, node in models):
        path, node = models[0]
        yield one.find("installed.no-migrations", path, node.lineno)
    if one.migrations and "__init__.py" not in one.in_migrations:
        folder = one.module.folder / "migrations"
        yield one.find("installed.marker-absent", folder, expected=one.view.relative(folder / "__init__.py"))


def graph(one: Examination) -> Iterator[Finding]:
    """Migrations of the module: do they parse, is what they depend on there, do two claim one place."""
    wanted: dict[str, list[str]] = {}
    named: set[str] = set()
    for migration in one.migrations:
        source = one.view.project.parse(f"{one.module.place}/migrations/{migration}.py")
        if source is None:
            continue
        if source.broken is not None:
            yield one.find("installed.broken", source.path, source.broken.line, error=source.broken.reason)
            return
        named.add(migration)
        for label, name, line in _dependencies(source.tree):
            if label == one.module.label:
                wanted.setdefault(name, []).append(migration)
            missing = _is_missing(one, label, name)
            if missing:
                yield one.find("installed.dependency-absent", source.path, line, wanted=f"{label}.{name}")
    for followers in wanted.values():
        leaves = [name for name in followers if name not in wanted]
        if len(leaves) > 1:
            path = one.module.folder / "migrations" / f"{max(leaves)}.py"
            yield one.find("installed.conflict", path, names=", ".join(sorted(leaves)))


def _dependencies(tree: ast.Module | None) -> Iterator[tuple[str, str, int]]:
    bodies = [node.body for node in tree.body if isinstance(node, ast.ClassDef)] if tree is not None else []
    for node in (statement for body in bodies for statement in body):
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            if node.targets[0].id == "dependencies" and isinstance(node.value, ast.List):
                for pair in node.value.elts:
                    texts = [one.value for one in getattr(pair, "elts", []) if isinstance(one, ast.Constant)]
                    if len(texts) == 2:
                        yield str(texts[0]), str(texts[1]), pair.lineno


def _is_missing(one: Examination, label: str, name: str) -> bool:
    module = one.view.labels.get(label)
    if module is None or name.startswith("__"):
        return False
    folder = module.folder / "migrations"
    squashed = any(name in path.read_text("utf-8", "replace") for path in folder.glob("*squashed*.py"))
    marker = folder / "__init__.py"
    elsewhere = marker.is_file() and "__path__" in marker.read_text("utf-8", "replace")
    return folder.is_dir() and not (folder / f"{name}.py").exists() and not squashed and not elsewhere


def applied(one: Examination) -> Iterator[Finding]:
    """Migrations that are on disk but not in the database."""
    assert one.live is not None
    answer = one.live.answers.get("migrations")
    if not answer or one.registered_as is None:
        return
    label = one.registered_as["label"]
    due = [name.partition(".")[2] for name in one.live.migrations("due", label)]
    if due:
        file = one.module.folder / "migrations" / f"{due[0]}.py"
        names = ", ".join(due[:4]) + (" …" if len(due) > 4 else "")
        count = "a migration is" if len(due) == 1 else f"{len(due)} migrations are"
        yield one.find("installed.not-applied", file, count=count, names=names)


def database(one: Examination) -> Iterator[Finding]:
    """The database against the files: not there, ahead of them, or without a table that it says it has."""
    assert one.live is not None
    answer = one.live.answers.get("migrations")
    databases = one.live.answers.get("databases") or {}
    default = databases.get("default", {})
    registered = one.registered_as
    if not answer or registered is None:
        return
    if default.get("there") is False and registered["models"]:
        yield one.find("installed.database-absent", name=default["name"])
        return
    label = registered["label"]
    on_disk = set(one.live.migrations("on_disk", label))
    applied_names = one.live.migrations("applied", label)
    ahead = sorted(set(applied_names) - on_disk)
    if ahead and on_disk and not any("squashed" in name for name in on_disk):
        folder = one.module.folder / "migrations"
        yield one.find("installed.database-ahead", folder, name=ahead[0].partition(".")[2])
    due = one.live.migrations("due", label)
    changed = answer.get("drift", {}).get(label)
    for model in registered["models"]:
        if model["managed"] and model["table"] not in answer["tables"] and applied_names and not due and not changed:
            place = next(
                ((path, node.lineno) for path, node in one.model_classes() if node.name == model["name"]),
                (one.module.folder / "models.py", 0),
            )
            yield one.find("installed.table-gone", *place, table=model["table"], record=model["name"])


def drift(one: Examination) -> Iterator[Finding]:
    """Models that say something else than the migrations."""
    assert one.live is not None
    answer = one.live.answers.get("migrations") or {}
    changes = answer.get("drift", {}).get(one.module.label)
    if changes and one.registered_as is not None:
        path, line = one.module.folder / "models.py", 0
        for path, node in one.model_classes():  # noqa: B007
            if any(node.name.lower() in change.lower() for change in changes):
                line = node.lineno
                break
        yield one.find("installed.drift", path, line, changes="; ".join(changes[:3]))


def unreadable(one: Examination) -> Iterator[Finding]:
    """Migrations that the host cannot load."""
    assert one.live is not None
    error = one.live.failures.get("migrations")
    if error is None:
        return
    text = said(error)
    place = last_place(error, one.module.folder)
    named = re.search(rf"Migration (\w+) in app {one.module.label} ", text)
    if place is None and named:
        place = one.module.folder / "migrations" / f"{named.group(1)}.py", 1
    if place is not None:
        yield one.find("installed.broken", place[0], place[1], error=text)


STATIC = (migrations_folder, graph)
LIVE = (applied, database, drift, unreadable)
