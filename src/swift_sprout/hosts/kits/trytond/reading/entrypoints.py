"""Entry points: how the host finds modules. They stand in metadata folders beside the packages."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import NamedTuple

from .inifile import IniFile

GROUP = "trytond.modules"


class EntryPoint(NamedTuple):
    """One entry point: the module's name, the package that it names, and where it is said.

    root -- the folder that holds the metadata, version -- what the metadata folder is named after
    """

    name: str
    package: str
    file: Path
    line: int
    root: Path
    version: str


def entry_points(roots: Iterable[Path]) -> list[EntryPoint]:
    """Return the entry points of trytond modules in the metadata folders of some folders of the import path."""
    found = []
    for root in roots:
        try:
            names = sorted(os.listdir(root))
        except OSError:
            continue
        for name in names:
            if not name.endswith((".dist-info", ".egg-info")):
                continue
            path = root / name / "entry_points.txt"
            try:
                if GROUP.encode() not in path.read_bytes():
                    continue
            except OSError:
                continue
            version = name.rpartition(".")[0].partition("-")[2]
            for option, items in IniFile(path, raw=True).sections.get(GROUP, {}).items():
                for item in items[:1]:
                    package = item.text.partition(":")[0].strip()
                    found.append(EntryPoint(option, package, path, item.line, root, version))
    return found


def linked_folders(library: Path) -> list[Path]:
    """Return the folders that a library's ``.pth`` files put on the import path, as editable installs do."""
    found = []
    for path in sorted(library.glob("*.pth")):
        try:
            lines = path.read_text("utf-8", "replace").splitlines()
        except OSError:
            continue
        for line in lines:
            if line.strip() and not line.startswith(("import ", "import\t", "#")):
                folder = Path(os.path.join(library, line.strip()))
                if folder.is_dir():
                    found.append(folder)
    return found
