"""The change set that makes a module: the same for every kind of host."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from ...core.changes import ChangeSet
from ...core.errors import Refused
from ...core.made import MADE_FILE, Made
from ...core.modulefolders import ModuleFolder
from ..contract.kitdata import KitData


def free_folder(root: Path, place: ModuleFolder, label: str) -> str:
    """Return the folder of a new module, below the root; raises Refused when something stands there already."""
    folder = label if place.folder == "." else f"{place.folder}/{label}"
    target = root / folder
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise Refused(
            "folder-taken",
            f"{folder} is there already and not empty; nothing was changed.",
            "Choose another name, or move the folder away.",
        )
    return folder


def making(
    data: KitData, label: str, folder: str, files: Mapping[str, bytes], further: Mapping[str, bytes]
) -> ChangeSet:
    """Return the change set that makes a module's files, with the note of what was generated.

    further -- files that are made beside those which a brief always makes, such as first migrations
    """
    changes = ChangeSet(f"new {label}")
    for name, content in {**files, **further, MADE_FILE: Made.of(data.id, dict(files)).content()}.items():
        changes.add(f"{folder}/{name}", None, content)
    return changes
