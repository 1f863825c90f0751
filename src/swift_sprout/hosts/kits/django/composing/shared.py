"""What the files of this folder share: the facts of the site, and small spellings of code."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from .....core.brief import Brief
from .....core.parts.pages import needed_right
from .....core.parts.rights import same_name
from ....contract.kitdata import KitData
from ....python.layouts import SiteLayout

Values = dict[str, Any]
VERBS = {"read": "view", "create": "add", "change": "change", "delete": "delete"}


class Site(NamedTuple):
    """What the files of a module must know of their site.

    dotted -- the name under which the host imports the module
    layout -- the site's own, with its blocks
    named  -- whether the module's addresses have a namespace, as all have that are made here
    by_hand -- whether a person wrote the module: its own classes are left as they are
    mount  -- the address under which the module's own addresses stand, with slashes around it
    rest   -- whether endpoints are written with Django REST framework, as the host has it
    """

    dotted: str
    layout: SiteLayout = SiteLayout()
    named: bool = True
    mount: str = "/"
    by_hand: bool = False
    rest: bool = False

    def space(self, label: str) -> str:
        """Return what stands before the names of the module's addresses."""
        return f"{label}:" if self.named else ""

    def own(self, path: str) -> str:
        """Return the part of an address that the module's own table of addresses holds."""
        below = path.strip("/") + "/"
        mount = self.mount.lstrip("/")
        return "/" + below.removeprefix(mount).strip("/") if mount and below.startswith(mount) else path


def _no_values(data: KitData, brief: Brief, site: Site) -> Values:
    return {}


def _no_files(data: KitData, brief: Brief, values: Values) -> dict[str, bytes]:
    return {}


class Further(NamedTuple):
    """What a kit that builds on this one adds to a module: values for templates, and files made by other means."""

    values: Callable[[KitData, Brief, Site], Values] = _no_values
    files: Callable[[KitData, Brief, Values], dict[str, bytes]] = _no_files


PLAIN = Further()


def lines(texts: list[str]) -> list[dict[str, str]]:
    """Return texts as what a template repeats for each line."""
    return [{"line": text} for text in texts]


def call(function: str, arguments: list[str]) -> str:
    """Spell a call."""
    return f"{function}({', '.join(arguments)})"


def uses(records: list[Values], key: str, text: str) -> bool:
    """True when a text stands in the given value of any field."""
    return any(text in field[key] for record in records for field in record["fields"])


def permission_of(brief: Brief, access: str) -> str:
    """Return the permission's codename that an access of ``may …`` asks for; empty for other accesses."""
    right = needed_right(brief, access)
    if right is None:
        return ""
    verb, name = right
    if name:
        record = brief.record(name)
        assert record is not None
        return f"{VERBS[verb]}_{record.name.camel.lower()}"
    return next(one.key for one in brief.permissions if same_name(one.name.title, verb))


def attribute(name: str, function: str, arguments: list[str]) -> str:
    """Spell the call that a class attribute is set to; one that is too long for a line has a line for each argument."""
    plain = call(function, arguments)
    if len(name) + len(plain) + 7 <= 110:
        return plain
    return f"{function}(\n" + "".join(f"        {argument},\n" for argument in arguments) + "    )"
