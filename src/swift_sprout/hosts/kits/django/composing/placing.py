"""Menu entries and blocks."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.parts.pages import Page
from .....core.parts.placing import MenuEntry, block_of
from .....core.parts.rights import same_name
from ....shared.rendering import python_text
from .pages import named_pages
from .shared import Values, permission_of


def menu_lines(brief: Brief, space: str) -> list[str]:
    """Return the entries of the menu as lines of Python, the inner ones below those that hold them."""
    found: list[str] = []

    def write(entries: list[MenuEntry], indent: str) -> None:
        for entry in sorted(entries, key=lambda one: one.position):
            inside = [
                other for other in brief.menu if same_name(other.parent, entry.title) and other.side == entry.side
            ]
            found.append(f"{indent}{{")
            found.append(f'{indent}    "title": _({python_text(entry.title)}),')
            found.append(f'{indent}    "side": {python_text(entry.side)},')
            found.append(f'{indent}    "page": {_target(brief, entry, space)},')
            found.append(f'{indent}    "needs": {_needs(brief, entry)},')
            if inside:
                found.append(f'{indent}    "inside": [')
                write(inside, indent + "        ")
                found.append(f"{indent}    ],")
            else:
                found.append(f'{indent}    "inside": [],')
            found.append(f"{indent}}},")

    write([entry for entry in brief.menu if not entry.parent], "    ")
    return found


def _page(brief: Brief, entry: MenuEntry) -> tuple[Page, str] | None:
    return next(
        ((page, stem) for page, stem in named_pages(brief.pages) if entry.page in (page.path, *page.also)), None
    )


def _target(brief: Brief, entry: MenuEntry, space: str) -> str:
    found = _page(brief, entry) if entry.page else None
    return python_text(f"{space}{found[1].replace('_', '-')}") if found else "None"


def _needs(brief: Brief, entry: MenuEntry) -> str:
    """Spell what a user needs to see an entry: None, ``signed in``, ``staff`` or a permission."""
    found = _page(brief, entry) if entry.page else None
    if found is None or found[0].access == "anyone":
        return "None"
    permission = permission_of(brief, found[0].access)
    return python_text(f"{brief.name.snake}.{permission}" if permission else found[0].access)


def block_values(brief: Brief, records: dict[str, Values]) -> list[Values]:
    """Return the values that templates take of the blocks."""
    label = brief.name.snake
    found = []
    for block in brief.blocks:
        record = brief.record(block.shows) if block.shows else None
        found.append(
            {
                "block": block.name.snake,
                "block_title": block.name.title,
                "block_text": block.text,
                "block_template": f"{label}/blocks/{block.name.snake}.html",
                "limit": str(block.limit),
                "block_shows": bool(record),
                **(records[record.name.camel] if record else {}),
            }
        )
    return found


def administration_values(brief: Brief) -> Values:
    """Return what stands on the module's own page of the administration: menu entries and blocks."""
    blocks = [
        {"block": block.name.snake}
        for placement in brief.placements
        if placement.side == "administration" and placement.published and (block := block_of(brief, placement))
    ]
    entries = any(entry.side == "administration" for entry in brief.menu)
    return {"administration_blocks": blocks, "administration_menu": entries, "administration": bool(blocks or entries)}
