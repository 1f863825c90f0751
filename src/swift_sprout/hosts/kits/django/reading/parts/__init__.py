"""The parts of a module as its files tell them: what a brief of it would say. Nothing is run."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from ......core.brief import Brief, contradictions
from ......core.names import NameFamily, words_of
from ......core.parts.kinds import KINDS
from .base import LeftOut
from .pagetypes import PageTypeReading
from .placing import PlacingReading
from .programs import ProgramReading
from .rights import RightsReading

if TYPE_CHECKING:
    from ...view import HostView
    from ..modules import ModuleFiles

__all__ = ["LeftOut", "ReadModule", "part_names", "read_parts"]


class ReadModule(NamedTuple):
    """What the files of a module tell: the brief, what it cannot say, and where each part stands by kind and key."""

    brief: Brief
    left_out: list[LeftOut]
    places: dict[tuple[str, str], tuple[Path, int]]


def read_parts(view: HostView, module: ModuleFiles) -> ReadModule:
    """Read the records, permissions, groups, pages, menu, blocks and commands of a module."""
    return _Reader(view, module).read()


def part_names(view: HostView, module: ModuleFiles) -> dict[tuple[str, str], tuple[Path, int]]:
    """Return only where each part stands, by kind and key: much less work than reading what the parts are."""
    reader = _Reader(view, module, names_only=True)
    reader.read()
    return reader.places


class _Reader(PageTypeReading, PlacingReading, ProgramReading, RightsReading):
    """Puts a brief together."""

    def read(self) -> ReadModule:
        title = self.module.title or " ".join(words_of(self.module.label)[0]).capitalize()
        name = NameFamily(title, tuple(self.module.label.split("_")))
        records, permissions, settings = self.models()
        brief = Brief(
            name,
            version=self.module.version or "0.1.0",
            records=tuple(records),
            permissions=tuple(permissions),
            settings=tuple(settings),
        )
        brief = brief._replace(
            pages=tuple(self.pages(brief)),
            staff_screens=tuple(self.screens(brief)),
            page_types=tuple(self.page_types()),
            commands=tuple(self.commands()),
            blocks=tuple(self.blocks()),
            groups=tuple(self.groups(brief)),
        )
        brief = brief._replace(menu=tuple(self.menu(brief)))
        if not self.names_only:
            brief = self.without_contradictions(brief)
        return ReadModule(brief, self.left_out, self.places)

    def without_contradictions(self, brief: Brief) -> Brief:
        """Leave out parts that a brief could not say beside the others, and tell them."""
        for _ in range(50):
            found = contradictions(brief)
            if not found:
                break
            (kind, index, *_), what, _ = found[0]
            parts = brief.parts(str(kind))
            assert isinstance(index, int)
            file, line = self.places.pop((str(kind), parts[index].key), (self.module.folder, 0))
            self.left_out.append(LeftOut(file, line, what))
            changed: dict[str, Any] = {KINDS[str(kind)][0]: (*parts[:index], *parts[index + 1 :])}
            brief = brief._replace(**changed)
        return brief
