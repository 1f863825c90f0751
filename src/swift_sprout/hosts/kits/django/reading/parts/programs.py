"""Console commands."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.names import name_family
from ......core.parts.programs import Command
from ...facts import django
from ..claims import commands_of
from ..code import class_named
from .base import PartReading
from .values import text_of

if TYPE_CHECKING:
    pass


class ProgramReading(PartReading):
    """Reads commands."""

    @property
    def _own_commands(self) -> list[str]:
        """The commands that a kit's modules bring to be settled, and to load sample data."""
        facts = django(self.view.data)
        return [name.format(label=self.module.label) for name in (*facts.settle, *facts.samples)]

    def commands(self) -> Iterator[Command]:
        """Yield the console commands."""
        for claim in commands_of(self.module):
            if claim.name in self._own_commands:
                continue
            tree = self.tree(claim.path)
            holder = class_named(tree, "Command") if tree is not None else None
            if tree is None or holder is None:
                continue
            command = Command(name_family(claim.name, what="command"), _summary(tree, holder))
            self.places["command", command.key] = (claim.path, holder.lineno)
            yield command._replace(lists="", positional=(), named=())


def _summary(tree: ast.Module, holder: ast.ClassDef) -> str:
    for statement in holder.body:
        if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
            if statement.targets[0].id == "help" and text_of(statement.value):
                return text_of(statement.value).split("\n")[0]
    return (ast.get_docstring(tree) or "").split("\n")[0]
