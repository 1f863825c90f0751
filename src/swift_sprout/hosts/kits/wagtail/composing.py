"""What modules of a content host have beside what Django's have: panels on the administration's front page."""

from __future__ import annotations

from ....core.brief import Brief
from ....core.parts.placing import block_of
from ...contract.kitdata import KitData
from ..django.composing.shared import Site, Values

DASHBOARD = "dashboard"


def python_names(names: list[str]) -> str:
    """Spell a tuple of names."""
    return f"({', '.join(names)}{',' if len(names) == 1 else ''})"


def content_values(data: KitData, brief: Brief, site: Site) -> Values:
    """Return the values that templates take beside those of Django's."""
    label = brief.name.snake
    panels = []
    for placement in brief.placements:
        block = block_of(brief, placement)
        if placement.place != DASHBOARD or not placement.published or block is None:
            continue
        record = brief.record(block.shows) if block.shows else None
        panels.append(
            {
                "panel": block.name.camel,
                "panel_snake": block.name.snake,
                "panel_template": f"{label}/blocks/{block.name.snake}.html",
                "panel_record": record.name.camel if record is not None else "",
                "panel_limit": str(block.limit),
            }
        )
    return {
        "panels": panels,
        "panels_there": bool(panels),
        "records_there": bool(brief.records),
        "view_sets": python_names([f"{one.name.camel}ViewSet" for one in brief.records]),
        "hooked": bool(panels or brief.records),
    }
