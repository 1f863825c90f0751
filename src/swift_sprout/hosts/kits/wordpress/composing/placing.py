"""Menu entries, blocks and where they stand."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.parts.placing import Block, MenuEntry, block_of
from .....core.parts.rights import same_name
from ....shared.rendering import php_text
from .pages import seen_by_everybody
from .shared import Values, as_capability, comment_text, needs_of


def site_entries(brief: Brief) -> list[Values]:
    """Return the entries of the site's menu in their order; each names the one above by its place."""
    entries = sorted((one for one in brief.menu if one.side == "site"), key=lambda one: one.position)
    found = []
    for entry in entries:
        above = next(
            (number for number, one in enumerate(entries) if entry.parent and same_name(one.title, entry.parent)), None
        )
        found.append(
            {
                "entry_title": entry.title,
                "entry_path": php_text(entry.page.strip("/") if entry.page else None),
                "entry_needs": _needs(brief, entry),
                "entry_above": php_text(above),
            }
        )
    return found


def side_entries(brief: Brief) -> list[Values]:
    """Return the entries of the administration's menu that lead to pages of the module.

    The host's menu has two levels: what hangs under an entry of the brief stands beside it.
    """
    entries = sorted((one for one in brief.menu if one.side == "administration"), key=lambda one: one.position)
    parent = "self::SLUG" if brief.records else "'index.php'"
    return [
        {
            "side_parent": parent,
            "side_title": entry.title,
            "side_capability": as_capability(_needs(brief, entry)),
            "side_slug": f"Pages::address( {php_text(entry.page.strip('/'))} )",
            "side_callback": "''",
        }
        for entry in entries
        if entry.page
    ]


def _needs(brief: Brief, entry: MenuEntry) -> str:
    page = next((one for one in brief.pages if entry.page in (one.path, *one.also)), None) if entry.page else None
    return needs_of(brief, page.access) if page is not None else "anyone"


def block_values(brief: Brief, records: dict[str, Values]) -> list[Values]:
    """Return the values that templates take of the blocks."""
    return [_block(brief, block, records) for block in brief.blocks]


def _block(brief: Brief, block: Block, records: dict[str, Values]) -> Values:
    record = brief.record(block.shows) if block.shows else None
    key = block.key
    return {
        "block": key,
        "block_class": block.name.camel,
        "block_kebab": block.name.kebab,
        "block_title": block.name.title,
        "block_comment": comment_text(block.name.title),
        "block_name": f"{brief.name.kebab}/{block.name.kebab}",
        "block_folder": f"/blocks/{block.name.kebab}",
        "block_template": f"/templates/block_{key}.php",
        "block_shows": record is not None,
        "block_limit": str(block.limit),
        "block_open": "true" if record is not None and seen_by_everybody(brief, record) else "false",
        "block_has_text": bool(block.text),
        "block_text": block.text,
        "shortcode": f"{brief.name.snake}_{key}",
        "shortcode_use": f"[{brief.name.snake}_{key}]",
        "widget_base": f"{brief.name.snake}_{key}",
        "widget_option": f"widget_{brief.name.snake}_{key}",
        **(records[record.name.camel] if record is not None else {}),
    }


def placement_values(brief: Brief) -> list[Values]:
    """Return where widgets are put: ``front page`` is the first area of the theme, on the site's front page only."""
    found = []
    for one in brief.placements:
        block = block_of(brief, one)
        assert block is not None
        front = same_name(one.place, "front page")
        pages = ["/" + page.strip("/") for page in one.pages] or (["/"] if front else [])
        if one.published:
            found.append(
                {"block_class": block.name.camel, "area": "" if front else one.place, "placed_pages": php_text(pages)}
            )
    return found
