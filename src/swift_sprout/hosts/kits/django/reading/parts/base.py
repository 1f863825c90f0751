"""What the readers of all parts share."""

from __future__ import annotations

import ast
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from ...view import HostView
    from ..modules import ModuleFiles


class PartReading:
    """A module whose parts are read; ``left_out`` and ``places`` are filled by that."""

    def __init__(self, view: HostView, module: ModuleFiles, names_only: bool = False) -> None:
        self.names_only = names_only
        self.view = view
        self.module = module
        self.left_out: list[LeftOut] = []
        self.places: dict[tuple[str, str], tuple[Path, int]] = {}

    def tree(self, path: Path) -> ast.Module | None:
        """Return the syntax tree of a file; None where it cannot be read."""
        source = self.view.project.parse(path)
        return source.tree if source is not None else None

    @cached_property
    def model_files(self) -> list[Path]:
        """The files in which models stand."""
        folder = self.module.folder
        inside = sorted((folder / "models").glob("*.py")) if self.module.has("models") else []
        return [folder / "models.py", *inside] if self.module.has("models.py") else inside


class LeftOut(NamedTuple):
    """Something in the files that a brief cannot say, and why."""

    file: Path
    line: int
    what: str
