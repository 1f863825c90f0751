"""Installed: migrations on disk, applied, and true to the models."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ......core.findings import Finding
from .....python.code_errors import is_of_code
from ...asking import last_place, said
from ...reading.code import meta_constant
from ..examination import Examination


def migrations_folder(exam: Examination) -> Iterator[Finding]:
    """Models without a migrations package, or with one that the host does not see."""
    models = (
        []
        if exam.migrations
        else [each for each in exam.model_classes() if meta_constant(each[1], "abstract") is not True]
    )
    if models and not any(meta_constant(node, "managed") is False for _, node in models):
        path, node = models[0]
        yield exam.find("installed.no-migrations", path, node.lineno)
    if exam.migrations and "__init__.py" not in exam.in_migrations:
        folder = exam.module.folder / "migrations"
        yield exam.find("installed.marker-absent", folder, expected=exam.view.relative(folder / "__init__.py"))


def graph(exam: Examination) -> Iterator[Finding]:
    """Migrations of the module: do they parse, is what they depend on there, do two claim one place."""
    wanted: dict[str, list[str]] = {}
    named: set[str] = set()
    for migration in exam.migrations:
        source = exam.view.project.parse(f"{exam.module.place}/migrations/{migration}.py")
        if source is None:
            continue
        if source.broken is not None:
            yield exam.find("installed.broken", source.path, source.broken.line, error=source.broken.reason)
            return
        named.add(migration)
        for label, name, line in _dependencies(source.tree):
            if label == exam.module.label:
                wanted.setdefault(name, []).append(migration)
            missing = _is_missing(exam, label, name)
            if missing:
                yield exam.find("installed.dependency-absent", source.path, line, wanted=f"{label}.{name}")
    for followers in wanted.values():
        leaves = [name for name in followers if name not in wanted]
        if len(leaves) > 1:
            path = exam.module.folder / "migrations" / f"{max(leaves)}.py"
            yield exam.find("installed.conflict", path, names=", ".join(sorted(leaves)))


def _dependencies(tree: ast.Module | None) -> Iterator[tuple[str, str, int]]:
    bodies = [node.body for node in tree.body if isinstance(node, ast.ClassDef)] if tree is not None else []
    for node in (statement for body in bodies for statement in body):
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            if node.targets[0].id == "dependencies" and isinstance(node.value, ast.List):
                for pair in node.value.elts:
                    texts = [one.value for one in getattr(pair, "elts", []) if isinstance(one, ast.Constant)]
                    if len(texts) == 2:
                        yield str(texts[0]), str(texts[1]), pair.lineno


def _is_missing(exam: Examination, label: str, name: str) -> bool:
    module = exam.view.labels.get(label)
    if module is None or name.startswith("__"):
        return False
    folder = module.folder / "migrations"
    squashed = any(name in path.read_text("utf-8", "replace") for path in folder.glob("*squashed*.py"))
    marker = folder / "__init__.py"
    elsewhere = marker.is_file() and "__path__" in marker.read_text("utf-8", "replace")
    return folder.is_dir() and not (folder / f"{name}.py").exists() and not squashed and not elsewhere


def applied(exam: Examination) -> Iterator[Finding]:
    """Migrations that are on disk but not in the database."""
    assert exam.live is not None
    answer = exam.live.answers.get("migrations")
    if not answer or exam.registered_as is None:
        return
    label = exam.registered_as["label"]
    due = [name.partition(".")[2] for name in exam.live.migrations("due", label)]
    if due:
        file = exam.module.folder / "migrations" / f"{due[0]}.py"
        names = ", ".join(due[:4]) + (" …" if len(due) > 4 else "")
        count = "a migration is" if len(due) == 1 else f"{len(due)} migrations are"
        yield exam.find("installed.not-applied", file, count=count, names=names)


def database(exam: Examination) -> Iterator[Finding]:
    """The database against the files: not there, ahead of them, or without a table that it says it has."""
    assert exam.live is not None
    answer = exam.live.answers.get("migrations")
    databases = exam.live.answers.get("databases") or {}
    default = databases.get("default", {})
    registered = exam.registered_as
    if not answer or registered is None:
        return
    if default.get("there") is False and registered["models"]:
        said = exam.view.settings.get("DATABASES") if exam.view.settings is not None else None
        place = (said.file, said.line) if said is not None else ("", 0)
        yield exam.find("installed.database-absent", *place, name=default["name"])
        return
    label = registered["label"]
    on_disk = set(exam.live.migrations("on_disk", label))
    applied_names = exam.live.migrations("applied", label)
    ahead = sorted(set(applied_names) - on_disk - set(exam.live.migrations("replaced", label)))
    if ahead and on_disk and not any("squashed" in name for name in on_disk):
        folder = exam.module.folder / "migrations"
        yield exam.find("installed.database-ahead", folder, name=ahead[0].partition(".")[2])
    due = exam.live.migrations("due", label)
    changed = answer.get("drift", {}).get(label)
    for model in registered["models"]:
        if model["table"] in answer["elsewhere"]:
            continue  # a router keeps it in another database than the one that was asked
        if model["managed"] and model["table"] not in answer["tables"] and applied_names and not due and not changed:
            place = next(
                ((path, node.lineno) for path, node in exam.model_classes() if node.name == model["name"]),
                (exam.module.folder / "models.py", 0),
            )
            yield exam.find("installed.table-gone", *place, table=model["table"], record=model["name"])


def drift(exam: Examination) -> Iterator[Finding]:
    """Models that say something else than the migrations."""
    assert exam.live is not None
    answer = exam.live.answers.get("migrations") or {}
    changes = answer.get("drift", {}).get(exam.module.label)
    if changes and exam.registered_as is not None:
        path, line = exam.module.folder / "models.py", 0
        for path, node in exam.model_classes():  # noqa: B007
            if any(node.name.lower() in change.lower() for change in changes):
                line = node.lineno
                break
        yield exam.find("installed.drift", path, line, changes="; ".join(changes[:3]))


def unreadable(exam: Examination) -> Iterator[Finding]:
    """Migrations that the host cannot load."""
    assert exam.live is not None
    error = exam.live.failures.get("migrations")
    if error is None:
        return
    text = said(error)
    place = last_place(error, exam.module.folder)
    named = re.search(rf"Migration (\w+) in app {exam.module.label} ", text)
    if place is None and named:
        place = exam.module.folder / "migrations" / f"{named.group(1)}.py", 1
    pointing = re.search(rf"Migration {re.escape(exam.module.label)}\.(\w+) dependencies .*\('(\w+)', '(\w+)'\)", text)
    if pointing:
        path = exam.module.folder / "migrations" / f"{pointing[1]}.py"
        place = path, _line_of(exam, path, pointing[2], pointing[3])
    if place is not None:
        yield exam.find("installed.broken", place[0], place[1], error=text)


def _line_of(exam: Examination, path: Path, label: str, name: str) -> int:
    """Return the line of a migration that names another one."""
    source = exam.view.project.parse(path)
    for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
        if isinstance(node, ast.Tuple) and [getattr(one, "value", None) for one in node.elts] == [label, name]:
            return node.lineno
    return 1


STATIC = (migrations_folder, graph)
_DOING = {"saving": "saving a {0}", "text": "showing a {0} as text", "address": "asking a {0} for its address"}


def tried(exam: Examination) -> Iterator[Finding]:
    """Records that cannot be saved, or shown as text: tried in the copy where there is none."""
    tried = (exam.live.answers.get("tried") or {}) if exam.live is not None else {}
    for one in tried.get("failed", ()):
        if one["module"] == exam.module.name and is_of_code(one["error"]) and _is_about_record(exam, one["error"]):
            place = last_place(one["error"], exam.view.root)
            file, line = place if place is not None else (exam.module.folder / "models.py", 0)
            doing = _DOING[one["doing"]].format(one["model"])
            yield exam.find("installed.row-breaks", file, line, doing=doing, error=said(one["error"]))


def _is_about_record(exam: Examination, error: dict[str, Any]) -> bool:
    """False for something else that lacks an attribute, such as what only a request brings."""
    held = re.match(r"(?:type object )?'(\w+)'(?: object)? has no attribute", str(error["chain"][-1]["text"]))
    registry = exam.live.answers.get("registry") or () if exam.live is not None else ()
    models = {model["name"] for entry in registry for model in entry["models"]}
    return held is None or held[1] in models or held[1].endswith(("Manager", "QuerySet"))


LIVE = (applied, database, drift, unreadable, tried)
