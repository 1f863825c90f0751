"""What is known of one module while it is examined: its files, its host, and what the running host answered."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .....core.nearest import nearest, said_near
from .models import known_models

if TYPE_CHECKING:
    from collections.abc import Iterable

    from .....core.findings import Finding
    from ..asking import Live
    from ..reading.code import CodeClass
    from ..reading.modules import ModuleFiles
    from ..view import HostView
    from .models import KnownModels


class Examination:
    """One module under examination.

    live  -- None when only files are read
    named -- False for one that was not asked for by its name: it may well be off, if it is not the host's own
    """

    def __init__(self, view: HostView, module: ModuleFiles, live: Live | None = None, named: bool = True) -> None:
        self.named = named
        self.view = view
        self.module = module
        self.live = live

    def find(self, code: str, file: Path | str = "", line: int = 0, **values: object) -> Finding:
        """Make a finding of one of the kit's rules; ``near`` is a list of names that could be meant."""
        place = file if isinstance(file, str) else self.view.relative(file)
        values.setdefault("place", f"{place}:{line}" if line else place)
        values.setdefault("folder", self.view.relative(self.module.folder))
        return self.view.data.rules.finding(code, self.module.name, place, line, **values)

    @property
    def manifest_path(self) -> Path:
        """Where the manifest is, or should be."""
        return self.module.folder / "tryton.cfg"

    @property
    def models(self) -> KnownModels:
        """All models of the host, as the files of its modules say, and as it says itself where they do not."""
        return known_models(self.view, self.live.answers.get("registry") if self.live is not None else None)

    @cached_property
    def listed(self) -> list[tuple[str, CodeClass]]:
        """The classes that are registered and there, each with its sort."""
        found = []
        for said in self.module.registered:
            if not set(said.depends) <= set(self.view.by_name):
                continue  # the host passes it over
            one = self.module.registered_class(said.text)
            if one is not None:
                found.append((said.sort, one))
        return found

    @property
    def icons(self) -> set[str]:
        """The icons of the host and of all modules."""
        if self.view.icons is None:
            found: set[str] = set()
            for module in self.view.by_name.values():
                found |= module.shared.icons
            for core in self.view.core:
                found |= {path.stem for path in core.folder.rglob("icons/*.svg")}
                found |= core.shared.named_icons  # those that the clients bring are named in the code only
            self.view.icons = found
        return self.view.icons

    def answers(self, step: str) -> list[dict[str, Any]]:
        """Return what the running host answered in a step about this module; nothing where it was not asked."""
        if self.live is None:
            return []
        return [one for one in self.live.answers.get(step) or () if one.get("module") == self.module.name]

    def by_module(self, step: str) -> Any:
        """Return the running host's answer about this module in a step that answers by module; None for nothing."""
        return (self.live.answers.get(step) or {}).get(self.module.name) if self.live is not None else None

    @property
    def loaded(self) -> bool | None:
        """True when the running host loaded the module; None where it was not asked."""
        if self.live is None or "load" not in self.live.answers:
            return None
        return self.module.name in self.live.answers["load"]["loaded"]

    @property
    def state(self) -> str:
        """The module's state in the database."""
        return self.view.state(self.module)


def near(name: str, known: Iterable[str]) -> str:
    """Return a clause that names the nearest of known names; empty when none is near."""
    found = nearest(name, known)
    return said_near(found)
