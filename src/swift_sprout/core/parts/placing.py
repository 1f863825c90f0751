"""What is put where people see it: menu entries, blocks, and the placements of blocks."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..names import NameFamily, name_family
from ..nearest import did_you_mean
from .kinds import Contradiction, Kind, no_record
from .lines import read_line
from .pages import clean_path
from .rights import same_name

if TYPE_CHECKING:
    from ..brief import Brief

SIDES = ("site", "administration")


class MenuEntry(NamedTuple):
    """An entry of a menu, seen by those who may open its page.

    page   -- the path of a page of this module; empty for an entry that only holds others
    parent -- the title of the entry above; empty at the top
    side   -- one of SIDES
    """

    title: str
    page: str = ""
    parent: str = ""
    side: str = "site"
    position: int = 10

    @property
    def key(self) -> str:
        """What tells it from other entries."""
        return f"{self.side}: {self.title}"


class Block(NamedTuple):
    """A piece of a page that a template can place: the newest records of a type, or a text."""

    name: NameFamily
    shows: str = ""
    text: str = ""
    limit: int = 5

    @property
    def key(self) -> str:
        """What tells it from other blocks."""
        return self.name.snake


class Placement(NamedTuple):
    """Where a block stands.

    place     -- ``front page``, or what the host calls a place (for Django: the name of a template)
    pages     -- the paths on which it is seen; empty for all that the place has
    published -- False for one that is prepared but not seen yet
    """

    block: str
    place: str = "front page"
    pages: tuple[str, ...] = ()
    published: bool = True
    side: str = "site"

    @property
    def key(self) -> str:
        """What tells it from other placements."""
        return f"{self.block} in {self.place}"


def _side(entry: dict[str, Any]) -> str:
    side = entry.get("side", SIDES[0])
    if side not in SIDES:
        raise WrongUse("placing-side", f"{side!r} is no side of a host.", did_you_mean(side, SIDES))
    return str(side)


def _make_entry(entry: dict[str, Any]) -> MenuEntry:
    title = " ".join(entry["title"].split())
    if not title:
        raise WrongUse("menu-title", "A menu entry has no title.", 'Say title = "…".')
    page = clean_path(entry["page"]) if entry.get("page") else ""
    return MenuEntry(title, page, entry.get("parent", ""), _side(entry), entry.get("position", 10))


def _entry_against(menu: MenuEntry, brief: Brief) -> Iterator[Contradiction]:
    who = f"the menu entry {menu.title!r}"
    page = next((one for one in brief.pages if menu.page in (one.path, *one.also)), None)
    if menu.page and page is None:
        yield Contradiction(
            "page",
            f"{who} leads to {menu.page}, which is no page of this module",
            did_you_mean(menu.page, [one.path for one in brief.pages]),
        )
    if page is not None and page.parameters:
        yield Contradiction("page", f"{who} leads to {menu.page}, which needs a parameter", "Choose a page without.")
    others = [one for one in brief.menu if one.side == menu.side]
    if menu.parent and not any(same_name(one.title, menu.parent) for one in others):
        known = [one.title for one in others if one is not menu]
        yield Contradiction(
            "parent", f"{who} hangs under {menu.parent!r}, which does not exist", did_you_mean(menu.parent, known)
        )
    if not menu.page and not any(same_name(one.parent, menu.title) for one in others):
        yield Contradiction("page", f"{who} leads nowhere and holds nothing", "Say its page, or hang others under it.")
    trail, above = [menu.title], menu.parent
    while above:
        if any(same_name(above, one) for one in trail):
            yield Contradiction("parent", f"{who} hangs under itself", "Take one parent out.")
            return
        trail.append(above)
        above = next((one.parent for one in others if same_name(one.title, above)), "")


def _make_block(entry: dict[str, Any]) -> Block:
    limit = entry.get("limit", 5)
    if not 1 <= limit <= 100:
        raise WrongUse("block-limit", f"A block cannot show {limit} records.", "Give a number from 1 to 100.")
    return Block(name_family(entry["name"], what="block"), entry.get("shows", ""), entry.get("text", ""), limit)


def _block_against(block: Block, brief: Brief) -> Iterator[Contradiction]:
    return no_record(brief, "shows", block.shows, f"the block {block.name.title!r}")


def _make_placement(entry: dict[str, Any]) -> Placement:
    pages = tuple(clean_path(path) for path in entry.get("pages", ()))
    place = entry.get("place", "front page").strip()
    return Placement(entry["block"], place, pages, entry.get("published", True), _side(entry))


def _placement_against(placement: Placement, brief: Brief) -> Iterator[Contradiction]:
    if block_of(brief, placement) is None:
        known = [one.name.title for one in brief.blocks]
        yield Contradiction(
            "block",
            f"a placement names the block {placement.block!r}, which does not exist",
            did_you_mean(placement.block, known),
        )


def block_of(brief: Brief, placement: Placement) -> Block | None:
    """Return the block that a placement places, or None."""
    return next((one for one in brief.blocks if same_name(one.name.title, placement.block)), None)


def _plain(part: Any) -> dict[str, Any]:
    data: dict[str, Any] = {}
    for key, value in part._asdict().items():
        if value != part._field_defaults.get(key, ...):
            data[key] = list(value) if isinstance(value, tuple) and not isinstance(value, NameFamily) else value
    return data


def _block_data(block: Block) -> dict[str, Any]:
    return _plain(block) | {"name": block.name.title}


_MENU = {"title": "text", "page": "text", "parent": "text", "side": "text", "position": "number"}
_BLOCK = {"name": "text", "shows": "text", "text": "text", "limit": "number"}
_PLACEMENT = {"block": "text", "place": "text", "pages": "list", "published": "yes/no", "side": "text"}

MAKES = {
    "menu": Kind(
        "menu",
        _MENU,
        ("title",),
        _make_entry,
        _plain,
        _entry_against,
        "Berths, page /berths",
        lambda text: read_line("menu", "title", "", _MENU, text),
    ),
    "block": Kind(
        "block",
        _BLOCK,
        ("name",),
        _make_block,
        _block_data,
        _block_against,
        "Free berths, shows Berth, limit 5",
        lambda text: read_line("block", "name", "text", _BLOCK, text),
    ),
    "placement": Kind(
        "placement",
        _PLACEMENT,
        ("block",),
        _make_placement,
        _plain,
        _placement_against,
        "Free berths, place front page",
        lambda text: read_line("placement", "block", "", _PLACEMENT, text),
    ),
}
