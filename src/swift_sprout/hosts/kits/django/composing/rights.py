"""Groups: their own rights and the groups that they include."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.parts.rights import same_name
from ....shared.rendering import python_text
from .shared import VERBS, Values


def group_values(brief: Brief) -> list[Values]:
    """Return the values that templates take of the groups."""
    found = []
    for group in brief.groups:
        rights = []
        for name, verbs in group.may:
            record = brief.record(name)
            assert record is not None
            rights += [f"{VERBS[verb]}_{record.name.camel.lower()}" for verb in verbs]
        rights += [one.key for name in group.also for one in brief.permissions if same_name(one.name.title, name)]
        includes = [
            one.name.title for name in group.includes for one in brief.groups if same_name(one.name.title, name)
        ]
        found.append(
            {
                "group": group.name.title,
                "group_snake": group.key,
                "right_list": python_text(set(rights)) if rights else "set()",
                "rights": [{"right": python_text(right)} for right in rights],
                "includes": python_text(includes),
            }
        )
    return found
