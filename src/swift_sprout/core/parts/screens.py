"""Screens for staff, and further fields for the records of other modules."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..fields import Field, parse_field, spell_field
from .kinds import Contradiction, Kind, no_record
from .lines import read_line
from .pages import access_against, clean_access, clean_path, parameters_of, path_words
from .records import from_line

if TYPE_CHECKING:
    from ..brief import Brief

_TARGET = re.compile(r"[a-z][a-z0-9_]*\.[A-Z][A-Za-z0-9]*\Z")


class StaffScreen(NamedTuple):
    """A screen of the host's own back office: a record's list, and the forms that make and change one.

    path   -- its address, below which the forms stand
    access -- who may see the list; the forms ask for the right to create or change as well
    under  -- the heading of the back office's menu; empty for the module's title
    """

    path: str
    title: str
    shows: str
    access: str
    under: str = ""

    @property
    def key(self) -> str:
        """What tells it from other screens."""
        return self.path

    @property
    def words(self) -> tuple[str, ...]:
        """The words of the address, for names of controllers and templates."""
        return path_words(self.path)


class Extension(NamedTuple):
    """More fields for a record that the host or another module has: ``of`` names it as ``module.Record``."""

    of: str
    fields: tuple[Field, ...] = ()

    @property
    def key(self) -> str:
        """What tells it from other extensions."""
        return self.of

    @property
    def label(self) -> str:
        """The module whose record it is."""
        return self.of.partition(".")[0]

    @property
    def record(self) -> str:
        """The record."""
        return self.of.partition(".")[2]


def _make_screen(entry: dict[str, Any]) -> StaffScreen:
    path = clean_path(entry["path"])
    if path == "/" or parameters_of(path):
        raise WrongUse("screen-path", f"A staff screen cannot have the path {path!r}.", "Write one such as /offers.")
    title = entry.get("title", "").strip() or " ".join(path_words(path)).capitalize()
    access = clean_access(entry.get("access", "") or f"may read {entry['shows']}")
    if access in ("anyone", "signed in"):
        raise WrongUse(
            "screen-access",
            f"The staff screen {path} cannot be open to {access if access == 'anyone' else 'all who are signed in'}.",
            "Say staff, may read RECORD, or may PERMISSION; a page for others is a page.",
        )
    return StaffScreen(path, title, entry["shows"], access, " ".join(entry.get("under", "").split()))


def _screen_data(screen: StaffScreen) -> dict[str, Any]:
    data = {"path": screen.path, "title": screen.title, "shows": screen.shows, "access": screen.access}
    return data | ({"under": screen.under} if screen.under else {})


def _screen_against(screen: StaffScreen, brief: Brief) -> Iterator[Contradiction]:
    who = f"the staff screen {screen.path}"
    yield from no_record(brief, "shows", screen.shows, who)
    yield from access_against(brief, screen.access, who)
    if any(screen.path == page.path for page in brief.pages) or any(
        screen.path == other.path for other in brief.endpoints
    ):
        yield Contradiction("path", f"the path {screen.path} is there twice", "Change one.")


def _make_extension(entry: dict[str, Any]) -> Extension:
    if not _TARGET.match(entry["of"]):
        raise WrongUse(
            "extension-target", f"{entry['of']!r} names no record of another module.", "Write it as module.Record."
        )
    fields = tuple(parse_field(text) for text in entry.get("fields", ()))
    for field in fields:
        if not field.optional and field.default is None and field.type != "yes/no":
            raise WrongUse(
                "extension-field",
                f"The field {field.name!r} has no value for the rows that are there already.",
                "Make it optional, or give it a default.",
            )
        if field.type == "many":
            raise WrongUse(
                "extension-field", f"{field.name!r}: another's record gets no relations to many.", "Make it a record."
            )
    return Extension(entry["of"], fields)


def _extension_data(extension: Extension) -> dict[str, Any]:
    return {"of": extension.of, "fields": [spell_field(field) for field in extension.fields]}


def _extension_against(extension: Extension, brief: Brief) -> Iterator[Contradiction]:
    names = [field.name for field in extension.fields]
    for name in sorted({name for name in names if names.count(name) > 1}):
        yield Contradiction("fields", f"the extension of {extension.of} has the field {name!r} twice", "Rename one.")
    if extension.label == brief.name.snake:
        yield Contradiction(
            "of", f"{extension.of} is a record of this very module", "Give the record the fields itself."
        )


def _extension_line(text: str) -> dict[str, Any]:
    head, colon, rest = text.partition(":")
    entry = from_line(f"Extended:{rest}" if colon else "Extended")
    return {"of": head.strip(), "fields": entry.get("fields", [])}


_SCREEN = {"path": "text", "title": "text", "shows": "text", "access": "text", "under": "text"}

MAKES = {
    "staff_screen": Kind(
        "staff_screen",
        _SCREEN,
        ("path", "shows"),
        _make_screen,
        _screen_data,
        _screen_against,
        "/offers: Offers of the season, shows Season, access may read Season",
        lambda text: read_line("staff_screen", "path", "title", _SCREEN, text),
    ),
    "extension": Kind(
        "extension",
        {"of": "text", "fields": "list"},
        ("of", "fields"),
        _make_extension,
        _extension_data,
        _extension_against,
        "partner.Partner: landing_place text(40), optional",
        _extension_line,
    ),
}
