"""Which migration brings a model: what another module's migration must wait for (Django 5.2)."""

from __future__ import annotations

import re
from pathlib import Path
from typing import TYPE_CHECKING

from .entries import package_of

if TYPE_CHECKING:
    from ..view import HostView

ONLY = "0001_initial"  # the name of the first migration of each module that is made here
FIRST = "__first__"  # what the host takes for the first migration of an app, whatever its name


def migration_that_brings(view: HostView, label: str, models: set[str]) -> str:
    """Return the name of the migration of an app after which some of its models are there.

    models -- their names, in lower case. FIRST where the app's migrations are not found.
    """
    folder = _folder_of(view, label)
    paths = sorted(folder.glob("[0-9]*.py")) if folder is not None else []
    found = ""
    for path in paths:
        text = path.read_text("utf-8", "replace")
        made = re.findall(r"CreateModel\(\s*(?:name\s*=\s*)?[\"'](\w+)[\"']", text)
        made += re.findall(r"RenameModel\([^)]*?new_name\s*=\s*[\"'](\w+)[\"']", text)
        made += re.findall(r"RenameModel\(\s*[\"']\w+[\"']\s*,\s*[\"'](\w+)[\"']", text)
        if models & {name.lower() for name in made}:
            found = path.stem
    if label not in view.labels and label not in view.claims.labels:
        return ONLY  # it is made in the same go
    return found or (paths[0].stem if paths else FIRST)


def _folder_of(view: HostView, label: str) -> Path | None:
    """Return where the migrations of an app lie: of the host's own modules, or of installed packages."""
    own = view.labels.get(label)
    if own is not None:
        return own.folder / "migrations"
    libraries = view.search.found.libraries if view.search.found is not None else ()
    for entry in view.listed:
        package = package_of(str(entry.value))
        for library in libraries:
            folder = library.joinpath(*package.split("."))
            if (folder / "migrations").is_dir() and label in _labels(folder, package):
                return folder / "migrations"
    return None


def _labels(folder: Path, package: str) -> set[str]:
    """Return the labels that an installed app may have: its last name, and those that its configs say."""
    apps = folder / "apps.py"
    text = apps.read_text("utf-8", "replace") if apps.is_file() else ""
    return {package.rpartition(".")[2], *re.findall(r"^\s+label\s*=\s*[\"'](\w+)[\"']", text, re.MULTILINE)}
