"""Hosts whose modules keep rows in tables that can be taken away: the room ``dropping`` of their kit says how."""

from __future__ import annotations

from importlib import import_module
from pathlib import Path
from typing import Any, ClassVar, Protocol, TypeVar, cast

from ...core.hostfacts import StepRun
from .viewed import Named, ViewedHost, changes_state

View = TypeVar("View")
Module = TypeVar("Module", bound=Named)


class Dropping(Protocol):
    """What a room ``dropping`` holds; all ask the running host, and take at most as long as is said."""

    def kept_data(self, view: Any, module: Any, limit_seconds: float) -> dict[str, int]:
        """Return the rows of a module's tables."""

    def try_drop(self, view: Any, module: Any, limit_seconds: float) -> None:
        """Try whether a module's tables can be taken away."""

    def save_rows(self, view: Any, module: Any, rows_file: Path, limit_seconds: float) -> int:
        """Write a module's rows to a file."""

    def drop(self, view: Any, module: Any, limit_seconds: float) -> list[StepRun]:
        """Take a module's tables away."""

    def load_rows(self, view: Any, module: Any, rows_file: Path, limit_seconds: float) -> None:
        """Make a module's tables anew and put the rows of a file back."""


class RowKeepingHost(ViewedHost[View, Module]):
    """A host that hands on to the room ``dropping`` of its kit; ``dropping_room`` is its whole name."""

    dropping_room: ClassVar[str]

    @property
    def _dropping(self) -> Dropping:
        self.need_runtime()
        return cast(Dropping, import_module(self.dropping_room))

    def kept_data(self, module: str) -> dict[str, int]:
        """Return the rows of a module's tables."""
        return self._dropping.kept_data(self.view, self.module(module), self.options.limit_seconds)

    def try_drop(self, module: str) -> None:
        """Try whether a module's tables can be taken away."""
        self._dropping.try_drop(self.view, self.module(module), self.options.limit_seconds)

    def save_rows(self, module: str, rows_file: Path) -> int:
        """Write a module's rows to a file."""
        return self._dropping.save_rows(self.view, self.module(module), rows_file, self.options.limit_seconds)

    @changes_state
    def drop_data(self, module: str) -> list[StepRun]:
        """Take a module's tables away."""
        return self._dropping.drop(self.view, self.module(module), self.options.limit_seconds)

    @changes_state
    def load_rows(self, module: str, rows_file: Path) -> None:
        """Make a module's tables anew and put the rows of a file back."""
        self._dropping.load_rows(self.view, self.module(module), rows_file, self.options.limit_seconds)
