"""Menu entries, blocks and where they stand."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.names import name_family
from .....core.parts.placing import MenuEntry, block_of
from .....core.parts.rights import same_name
from ....shared.rendering import python_docstring, python_text
from .pages import listing_route
from .shared import Values, model_name, openers_of


def entry_values(brief: Brief, menu_root: str) -> list[Values]:
    """Return the values of the menu entries, each behind the one that it hangs under.

    menu_root -- the id of the module's own entry in the host's menu
    """
    roots = {"site": menu_root, "administration": "ir.menu_administration"}
    found = []
    for entry in _parents_first(brief):
        page = next((one for one in brief.pages if entry.page in (one.path, *one.also)), None) if entry.page else None
        key = entry_key(entry)
        parent = next(
            (one for one in brief.menu if one.side == entry.side and same_name(one.title, entry.parent)), None
        )
        groups = openers_of(brief, page.access) if page is not None else None
        above = f"entry_{entry_key(parent)}" if parent else roots[entry.side]
        found.append(
            {
                "entry": key,
                "entry_title": entry.title,
                "entry_parent": above,
                "entry_sequence": str(entry.position),
                "opens": page is not None,
                "entry_path": entry.page,
                "wizard_name": f"{brief.name.snake}.open_{key}",
                "url_id": f"{brief.name.snake}.url_{key}",
                "opener": f"Open{''.join(word.title() for word in key.split('_'))}",
                "opener_docstring": python_docstring(f"Opens {entry.title}."),
                "route_name": listing_route(page) if page is not None else "",
                "entry_groups": [{"holder": holder} for holder in groups or ()],
            }
        )
    return found


def entry_key(entry: MenuEntry) -> str:
    """Return the word by which a menu entry is known in ids."""
    side = "" if entry.side == "site" else "administration_"
    return side + name_family(entry.title, what="menu entry").snake


def _parents_first(brief: Brief) -> list[MenuEntry]:
    done: list[MenuEntry] = []
    waiting = list(brief.menu)
    while waiting:
        ready = next(
            one
            for one in waiting
            if not one.parent
            or not any(same_name(other.title, one.parent) and other.side == one.side for other in waiting)
        )
        waiting.remove(ready)
        done.append(ready)
    return done


def block_values(brief: Brief) -> list[Values]:
    """Return the values of the blocks."""
    found = []
    for block in brief.blocks:
        record = brief.record(block.shows) if block.shows else None
        found.append(
            {
                "block": block.key,
                "block_message": f"block_{block.key}",
                "block_text_message": f"block_text_{block.key}",
                "block_shows": record is not None,
                "block_has_text": bool(block.text),
                "block_model": model_name(brief, record) if record is not None else "",
                "block_limit": str(block.limit),
            }
        )
    return found


def placement_values(brief: Brief) -> list[Values]:
    """Return where the blocks stand; raises WrongUse for a place that the host has not."""
    found = []
    own = {page.path for page in brief.pages} | {"/"}
    for placement in brief.placements:
        block = block_of(brief, placement)
        assert block is not None
        wrong = [path for path in placement.pages if path not in own]
        if placement.place != "front page" or wrong:
            place = wrong[0] if wrong else placement.place
            raise WrongUse(
                "placement-not-carried",
                f"The block {block.name.title!r} cannot stand in {place!r}: a module draws on its own pages only.",
                'The nearest is place = "front page", with pages = […] of this module.',
            )
        found.append(
            {
                "block": block.key,
                "placed_on": python_text(tuple(placement.pages or ("/",))),
                "published": str(placement.published),
            }
        )
    return found
