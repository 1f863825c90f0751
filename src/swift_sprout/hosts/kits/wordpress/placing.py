"""Areas of the theme for widgets: which are drawn, and placements that none of them would show."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from ....core.errors import Refused, SproutError, WrongUse
from ....core.nearest import did_you_mean
from ....core.parts.rights import same_name
from .asking import boot

if TYPE_CHECKING:
    from collections.abc import Sequence

    from ....core.parts.placing import Placement
    from .view import HostView

FRONT_PAGE = "front page"  # the theme's first area, on the site's front page only


def may_be_drawn(view: HostView, area: str) -> bool:
    """True where the theme or a module that is on draws an area by its name, or draws one whose name it works out."""
    draws = re.compile(rf"dynamic_sidebar\s*\(\s*(?:['\"]{re.escape(area)}['\"]|[^'\"\s])".encode())
    return any(
        draws.search(content) for module in view.modules if view.is_on(module) for content in module.contents.values()
    )


def refuse_unseen(view: HostView, placements: Sequence[Placement], limit_seconds: float) -> None:
    """Raise WrongUse for a placement in an area that the theme has not, Refused for one that nothing draws.

    A host that does not run now refuses nothing: its theme registers the areas when it starts.
    """
    if not placements or view.php is None:
        return
    try:
        areas = boot(view, limit_seconds, only=("places",)).answers["places"]["areas"]
    except (SproutError, KeyError):
        return
    drawn = [area for area in areas if may_be_drawn(view, area)]
    listed = f" Areas that pages draw: {', '.join(drawn) or 'none'}."
    for one in placements:
        if same_name(one.place, FRONT_PAGE):
            if not areas:
                raise WrongUse(
                    "place-unknown",
                    f"The block {one.block!r} cannot be placed: the theme has no area for widgets.",
                    "Leave the placement out, and put the block or its shortcode into a page.",
                )
        elif one.place not in areas:
            raise WrongUse(
                "place-unknown",
                f"The block {one.block!r} cannot be placed: the theme has no area {one.place!r}.",
                did_you_mean(one.place, [FRONT_PAGE, *areas]) + listed,
            )
        if (area := areas[0] if same_name(one.place, FRONT_PAGE) else one.place) not in drawn:
            raise Refused(
                "place-not-drawn", f"The block {one.block!r} would be seen nowhere: no page draws {area!r}.", listed[1:]
            )
