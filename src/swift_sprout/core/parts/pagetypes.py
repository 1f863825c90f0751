"""Page types: pages that editors write, in hosts that keep them in a tree."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..fields import Field, parse_field, spell_field
from ..names import NameFamily, name_family
from ..nearest import did_you_mean
from .kinds import Contradiction, Kind
from .pages import clean_path
from .records import from_line
from .rights import same_name

if TYPE_CHECKING:
    from ..brief import Brief


class PageType(NamedTuple):
    """A type of page with fields of its own beside the title that every page has.

    under  -- the types of pages below which one may be made, ``module.Type`` for other modules'; empty for all
    holds  -- the types that may be made below one; empty for all, ``nothing`` alone for none
    placed -- the title of a page of this type that is made in the tree when the module is settled; empty for none
    below  -- the address of the page below which that one is made
    live   -- False for one that is a draft at first
    """

    name: NameFamily
    fields: tuple[Field, ...] = ()
    summary: str = ""
    under: tuple[str, ...] = ()
    holds: tuple[str, ...] = ()
    placed: str = ""
    below: str = "/"
    live: bool = True

    @property
    def key(self) -> str:
        """What tells it from other page types."""
        return self.name.snake


def _make(entry: dict[str, Any]) -> PageType:
    fields = tuple(parse_field(text) for text in entry.get("fields", ()))
    for field in fields:
        if field.type == "many" or field.name in ("title", "slug"):
            what = "every page has one" if field.type != "many" else "a page points at one thing at most"
            raise WrongUse(
                "page-type-field", f"A page type cannot have the field {field.name!r}: {what}.", "Leave it out."
            )
    return PageType(
        name_family(entry["name"], what="page type"),
        fields,
        entry.get("summary", ""),
        tuple(entry.get("under", ())),
        tuple(entry.get("holds", ())),
        " ".join(entry.get("placed", "").split()),
        clean_path(entry.get("below", "/")),
        entry.get("live", True),
    )


def _data(page_type: PageType) -> dict[str, Any]:
    data: dict[str, Any] = {"name": page_type.name.title}
    if page_type.fields:
        data["fields"] = [spell_field(field) for field in page_type.fields]
    for key in ("summary", "placed"):
        if getattr(page_type, key):
            data[key] = getattr(page_type, key)
    for key in ("under", "holds"):
        if getattr(page_type, key):
            data[key] = list(getattr(page_type, key))
    if page_type.below != "/":
        data["below"] = page_type.below
    return data if page_type.live else data | {"live": False}


def _against(page_type: PageType, brief: Brief) -> Iterator[Contradiction]:
    own = [other.name.title for other in brief.page_types]
    title = page_type.name.title
    names = [field.name for field in page_type.fields]
    for name in sorted({name for name in names if names.count(name) > 1}):
        yield Contradiction("fields", f"the page type {title!r} has the field {name!r} twice", "Rename one.")
    if any(same_name(title, record.name.title) for record in brief.records):
        yield Contradiction("name", f"{title!r} is a record as well", "Rename one, such as “… page”.")
    for key, said in (("under", page_type.under), ("holds", page_type.holds)):
        for name in said:
            if "." in name or (key == "holds" and name == "nothing" and len(said) == 1):
                continue
            if not any(same_name(name, other) for other in own):
                remedy = did_you_mean(name, own) + " A type of another module is written module.Type."
                yield Contradiction(
                    key, f"the page type {title!r} names {name!r}, which this module does not have", remedy
                )
    for field in page_type.fields:
        foreign = "." in field.target or field.target in ("user", "")
        if field.is_relation and not foreign and brief.record(field.target) is None:
            what = f"{title}.{field.name} points at {field.target!r}, which this module does not have"
            yield Contradiction(
                "fields", what, did_you_mean(field.target, [record.name.title for record in brief.records])
            )


MAKES = {
    "page_type": Kind(
        "page_type",
        {
            "name": "text",
            "fields": "list",
            "summary": "text",
            "under": "list",
            "holds": "list",
            "placed": "text",
            "below": "text",
            "live": "yes/no",
        },
        ("name",),
        _make,
        _data,
        _against,
        "Tide page: station text(80), note long text",
        from_line,
    )
}
