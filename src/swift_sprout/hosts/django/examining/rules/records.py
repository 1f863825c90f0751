"""Installed: migrations on disk, applied, and true to the models."""

from __future__ import annotations

from collections.abc import Iterator

from .....core.findings import Finding
from ..examination import Examination
from ..live import last_place, said


def migrations_folder(one: Examination) -> Iterator[Finding]:
    """Models without a migrations package."""
    folder = one.module.folder / "migrations"
    models = list(one.model_classes())
    if models and not any(folder.glob("[!_]*.py")):
        path, node = models[0]
        yield one.find("installed.no-migrations", path, node.lineno)


def applied(one: Examination) -> Iterator[Finding]:
    """Migrations that are on disk but not in the database."""
    assert one.live is not None
    answer = one.live.answers.get("migrations")
    if not answer or one.registered_as is None:
        return
    label = one.registered_as["label"]
    due = [name.partition(".")[2] for name in answer.get("due", []) if name.startswith(label + ".")]
    if due:
        file = one.module.folder / "migrations" / f"{due[0]}.py"
        names = ", ".join(due[:4]) + (" …" if len(due) > 4 else "")
        count = f"{len(due)} is" if len(due) == 1 else f"{len(due)} are"
        yield one.find("installed.not-applied", file, count=count, names=names)
    if label in answer.get("conflicts", {}):
        names = ", ".join(answer["conflicts"][label])
        yield one.find("installed.conflict", one.module.folder / "migrations", names=names)


def drift(one: Examination) -> Iterator[Finding]:
    """Models that say something else than the migrations."""
    assert one.live is not None
    answer = one.live.answers.get("migrations") or {}
    changes = answer.get("drift", {}).get(one.module.label)
    if changes and one.registered_as is not None and one.module.has("migrations"):
        path, line = one.module.folder / "models.py", 0
        for path, node in one.model_classes():  # noqa: B007
            if any(node.name.lower() in change.lower() for change in changes):
                line = node.lineno
                break
        yield one.find("installed.drift", path, line, changes="; ".join(changes[:3]))


def unreadable(one: Examination) -> Iterator[Finding]:
    """Migrations that cannot be loaded."""
    assert one.live is not None
    error = one.live.failures.get("migrations")
    if error is not None:
        place = last_place(error, one.module.folder)
        if place is not None:
            yield one.find("installed.broken", place[0], place[1], error=said(error))


STATIC = (migrations_folder,)
LIVE = (applied, drift, unreadable)
