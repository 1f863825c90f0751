"""Groups."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ......core.brief import Brief
from ......core.names import name_family
from ......core.parts.rights import Group
from .base import PartReading
from .pages import VERBS
from .values import assigned

if TYPE_CHECKING:
    pass


class RightsReading(PartReading):
    """Reads groups as they are made here."""

    def groups(self, brief: Brief) -> Iterator[Group]:
        """Read the groups of a ``groups.py`` as it is made here."""
        if not self.module.has("groups.py"):
            return
        path = self.module.folder / "groups.py"
        table = assigned(self.tree(path), "GROUPS")
        try:
            said = ast.literal_eval(table) if table is not None else {}
            entries = [(str(name), list(entry["may"]), list(entry["includes"])) for name, entry in said.items()]
        except (ValueError, KeyError, TypeError, AttributeError):
            return
        for name, rights, includes in entries:
            may: dict[str, list[str]] = {}
            also: list[str] = []
            for right in rights:
                verb, _, model = right.partition("_")
                record = next((one for one in brief.records if one.name.camel.lower() == model), None)
                if verb in VERBS and record is not None:
                    may.setdefault(record.name.title, []).append(VERBS[verb])
                else:
                    also += [one.name.title for one in brief.permissions if one.key == right]
            family = name_family(name, what="group")
            self.places["group", family.snake] = (path, table.lineno if table is not None else 0)
            order = ("read", "create", "change", "delete")
            rights_said = tuple((key, tuple(v for v in order if v in verbs)) for key, verbs in may.items())
            yield Group(family, rights_said, tuple(also), tuple(includes))
