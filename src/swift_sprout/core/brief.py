"""The brief: what a module is, host-neutral, as read from ``sprout.toml`` or made from options."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, NamedTuple

import tomli

from .errors import Problem, SproutError, WrongUse
from .names import NameFamily, name_family
from .nearest import did_you_mean
from .parts.kinds import KINDS, OWN_PARTS, Kind, kind_named
from .tomlplaces import line_of

if TYPE_CHECKING:
    from .parts.commerce import PriceRule, ProductKind, ShippingMethod
    from .parts.contents import Asset, Sample, Setting, Translation
    from .parts.own import OwnPart
    from .parts.pages import Endpoint, Page
    from .parts.pagetypes import PageType
    from .parts.placing import Block, MenuEntry, Placement
    from .parts.programs import Command, Listener, Service
    from .parts.records import Record
    from .parts.rights import Group, Permission
    from .parts.screens import Extension, StaffScreen

FORMAT = "swift-sprout/brief/1"
BRIEF_FILE = "sprout.toml"


class Brief(NamedTuple):
    """What a module is: its name, its facts, and its parts by kind, each in the order of the brief."""

    name: NameFamily
    summary: str = ""
    version: str = "0.1.0"
    author: str = ""
    group: str = ""
    licence: str = ""
    needs: tuple[str, ...] = ()
    records: tuple[Record, ...] = ()
    permissions: tuple[Permission, ...] = ()
    groups: tuple[Group, ...] = ()
    pages: tuple[Page, ...] = ()
    page_types: tuple[PageType, ...] = ()
    staff_screens: tuple[StaffScreen, ...] = ()
    endpoints: tuple[Endpoint, ...] = ()
    menu: tuple[MenuEntry, ...] = ()
    blocks: tuple[Block, ...] = ()
    placements: tuple[Placement, ...] = ()
    commands: tuple[Command, ...] = ()
    services: tuple[Service, ...] = ()
    listeners: tuple[Listener, ...] = ()
    settings: tuple[Setting, ...] = ()
    product_kinds: tuple[ProductKind, ...] = ()
    shipping_methods: tuple[ShippingMethod, ...] = ()
    price_rules: tuple[PriceRule, ...] = ()
    extensions: tuple[Extension, ...] = ()
    samples: tuple[Sample, ...] = ()
    translations: tuple[Translation, ...] = ()
    assets: tuple[Asset, ...] = ()
    own_parts: tuple[OwnPart, ...] = ()

    def record(self, name: str) -> Record | None:
        """Return the record of that name in any spelling, or None."""
        wanted = name.replace(" ", "").replace("_", "").lower()
        return next((one for one in self.records if one.name.camel.lower() == wanted), None)

    def parts(self, kind: str) -> tuple[Any, ...]:
        """Return the parts of a kind."""
        found: tuple[Any, ...] = getattr(self, KINDS[kind][0])
        return found if KINDS[kind][0] != OWN_PARTS else tuple(part for part in found if part.kind == kind)

    def with_part(self, kind: str, part: Any) -> Brief:
        """Return the brief with one more part."""
        changed: dict[str, Any] = {KINDS[kind][0]: (*getattr(self, KINDS[kind][0]), part)}
        return self._replace(**changed)

    def as_data(self) -> dict[str, Any]:
        """Return the brief as the plain data of ``sprout.toml``."""
        module: dict[str, Any] = {"name": self.name.title, "internal": self.name.snake}
        if self.name.owner:
            module["owner"] = "-".join(self.name.owner)
        for key in ("summary", "version", "author", "group", "licence"):
            if getattr(self, key):
                module[key] = getattr(self, key)
        if self.needs:
            module["needs"] = list(self.needs)
        data: dict[str, Any] = {"format": FORMAT, "module": module}
        for kind in KINDS:
            if self.parts(kind):
                data[kind] = [kind_named(kind).data(part) for part in self.parts(kind)]
        return data


_MODULE = dict.fromkeys(("name", "internal", "owner", "summary", "version", "author", "group", "licence"), "text")
MODULE_SHAPE = _MODULE | {"needs": "list"}
_SORTS: dict[str, tuple[str, Callable[[Any], bool]]] = {
    "text": ("text", lambda value: isinstance(value, str)),
    "list": ("a list of text", lambda value: isinstance(value, list) and all(isinstance(one, str) for one in value)),
    "number": ("a whole number", lambda value: isinstance(value, int) and not isinstance(value, bool)),
    "yes/no": ("true or false", lambda value: isinstance(value, bool)),
    "table": (
        "a table of text",
        lambda value: isinstance(value, dict) and all(isinstance(one, str) for one in value.values()),
    ),
    "rows": (
        "a list of tables of plain values",
        lambda value: (
            isinstance(value, list)
            and all(
                isinstance(row, dict) and not any(isinstance(one, dict | list) for one in row.values()) for row in value
            )
        ),
    ),
}


def brief_from_toml(text: str, place: str) -> Brief:
    """Read a brief.

    text  -- the file's text, place -- its path, for messages

    Raises WrongUse that lists every problem with its line and the nearest known key.
    """
    try:
        data = tomli.loads(text)
    except tomli.TOMLDecodeError as error:
        where = re.search(r"\(at line (\d+), column (\d+)\)", str(error))
        line = where.group(1) if where else str(text.count("\n") + 1)
        reason = str(error).split(" (at ")[0]
        raise WrongUse(
            "brief-broken",
            f"{place}:{line}: this is not TOML: {reason}.",
            "Fix that line; text stands in double quotes, lists in square brackets.",
        ) from None
    except RecursionError:
        raise WrongUse("brief-broken", f"{place}: its values are nested too deeply.", "Fix it.") from None
    return brief_from_data(data, text, place)


def brief_from_data(data: dict[str, Any], text: str, place: str) -> Brief:
    """Make a brief of the plain data that was read from ``text``, which it is needed with to tell lines."""
    return _Reader(text, place).brief(data)


class _Reader:
    """Turns plain data into a brief and collects every problem on the way."""

    def __init__(self, text: str, place: str) -> None:
        self.text = text
        self.place = place
        self.problems: list[Problem] = []

    def brief(self, data: dict[str, Any]) -> Brief:
        known = ("format", "module", *KINDS)
        for key in data:
            if key not in known:
                self.problem((key,), f"unknown part {key!r}", did_you_mean(key, known))
        if data.get("format", FORMAT) != FORMAT:
            self.problem(("format",), f"unknown format {data['format']!r}", f'This version reads "{FORMAT}".')
        module = data.get("module")
        if not isinstance(module, dict):
            self.problem((), "there is no [module] table", 'Begin with [module] and name = "…".')
            module = {}
        module = self.shaped(("module",), module, MODULE_SHAPE)
        parts: dict[str, Any] = {}
        for kind, (attribute, _) in KINDS.items():
            if kind in data:
                parts[attribute] = (*parts.get(attribute, ()), *self.parts(kind, data[kind]))
        name = self.attempt(("module", "name"), lambda: module_name(module))
        if not self.problems and name is not None:
            facts = {key: module[key] for key in _MODULE if key in module and key in Brief._fields and key != "name"}
            brief = Brief(name, needs=tuple(module.get("needs", ())), **facts)._replace(**parts)
            self.problems += [Problem(self.where(path), what, remedy) for path, what, remedy in contradictions(brief)]
            if not self.problems:
                return brief
        count = len(self.problems)
        raise WrongUse(
            "brief-wrong",
            f"{self.place}: {count} problem{'s' if count > 1 else ''} in the brief.",
            "Fix what is listed; `swift-sprout new --help` shows a whole brief.",
            tuple(self.problems),
        )

    def where(self, path: tuple[str | int, ...]) -> str:
        line = line_of(self.text, path) if path else 0
        return f"{self.place}:{line}" if line else self.place

    def problem(self, path: tuple[str | int, ...], what: str, remedy: str) -> None:
        self.problems.append(Problem(self.where(path), what, remedy))

    def attempt(self, path: tuple[str | int, ...], read: Callable[[], Any]) -> Any:
        try:
            return read()
        except SproutError as error:
            self.problem(path, error.sentence, error.remedy)
            return None

    def parts(self, kind: str, entries: Any) -> tuple[Any, ...]:
        if not isinstance(entries, list) or not all(isinstance(entry, dict) for entry in entries):
            self.problem((kind,), f"{kind} must be a list of tables", f"Write [[{kind}]] before each.")
            return ()
        known = kind_named(kind)
        made = [self.part(known, index, entry) for index, entry in enumerate(entries)]
        return tuple(part for part in made if part is not None)

    def part(self, kind: Kind, index: int, entry: dict[str, Any]) -> Any:
        path = (kind.name, index)
        before = len(self.problems)
        entry = self.shaped(path, entry, kind.shape)
        for key in kind.needed:
            if not entry.get(key) and len(self.problems) == before:
                self.problem((*path, key), f"a {kind.name} has no {key}", f"Add {key} = …")
        if len(self.problems) > before:
            return None
        return self.attempt((*path, kind.needed[-1]), lambda: kind.make(entry))

    def shaped(self, path: tuple[str | int, ...], entry: dict[str, Any], shape: dict[str, str]) -> dict[str, Any]:
        """Return of a table what has the right keys and sorts of values."""
        good: dict[str, Any] = {}
        for key, value in entry.items():
            if key not in shape:
                self.problem((*path, key), f"unknown key {key!r} in {path[0]}", did_you_mean(key, shape))
            elif not _SORTS[shape[key]][1](value):
                self.problem((*path, key), f"{key} must be {_SORTS[shape[key]][0]}, not {value!r}", "")
            else:
                good[key] = value
        return good


def module_name(module: dict[str, Any]) -> NameFamily:
    """Return the name family that a ``[module]`` table says; raises WrongUse."""
    if "name" not in module:
        raise WrongUse("brief-no-name", "the module has no name", 'Add name = "…" under [module].')
    return name_family(module["name"], internal=module.get("internal", ""), owner=module.get("owner", ""))


def contradictions(brief: Brief) -> list[tuple[tuple[str | int, ...], str, str]]:
    """Return what in a brief contradicts itself: path of the key, what is wrong, remedy."""
    found: list[tuple[tuple[str | int, ...], str, str]] = []
    for name in KINDS:
        parts = brief.parts(name)
        if not parts:
            continue
        kind = kind_named(name)
        seen: set[str] = set()
        for index, part in enumerate(parts):
            if part.key in seen:
                found.append(((name, index, kind.needed[0]), f"the {name} {part.key!r} is there twice", "Rename one."))
            seen.add(part.key)
            found += [((name, index, key), what, remedy) for key, what, remedy in kind.against(part, brief)]
    return found
