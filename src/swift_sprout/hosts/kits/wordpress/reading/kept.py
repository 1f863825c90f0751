"""What a module keeps in the host's database, as its brief or its code says."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .tables import created_tables

if TYPE_CHECKING:
    from .modules import ModuleFiles


def tables_of(module: ModuleFiles) -> list[str]:
    """Return the tables that a module's brief makes, without the host's prefix."""
    from .parts import written_brief

    brief = written_brief(module)
    if brief is None:
        return created_tables(module)
    own = brief.name.snake
    found = []
    for record in brief.records:
        found.append(f"{own}_{record.name.snake}")
        found += [f"{own}_{record.name.snake}_{field.name}" for field in record.fields if field.type == "many"]
    return found


def roles_of(module: ModuleFiles) -> list[str]:
    """Return the roles that a module's brief makes; none for one without a brief."""
    from ..composing.shared import role_name
    from .parts import written_brief

    brief = written_brief(module)
    return [role_name(brief, group.key) for group in brief.groups] if brief is not None else []
