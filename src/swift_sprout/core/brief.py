"""The brief: what a module is, host-neutral, as read from ``sprout.toml`` or made from options."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Callable
from typing import Any, NamedTuple

from .errors import Problem, SproutError, WrongUse
from .fields import Field, parse_field
from .names import NameFamily, name_family
from .nearest import did_you_mean
from .tomlplaces import line_of

FORMAT = "swift-sprout/brief/1"
BRIEF_FILE = "sprout.toml"


class Record(NamedTuple):
    """A record type: its name family (singular), its fields in order, and how people see it."""

    name: NameFamily
    fields: tuple[Field, ...]
    summary: str = ""
    order_by: tuple[str, ...] = ()
    plural_title: str = ""

    @property
    def plural(self) -> NameFamily:
        """The family of the plural, with the brief's own title where it says one."""
        family = self.name.plural
        return NameFamily(self.plural_title, family.words) if self.plural_title else family


class Page(NamedTuple):
    """An address that visitors call.

    path   -- absolute, with a leading slash and without a trailing one; ``/`` alone is the root
    shows  -- the name of a record whose list (and one page per record) the page shows; empty for a plain page
    access -- ``anyone``, ``signed in``, ``staff``, or ``may read|create|change|delete Record``
    """

    path: str
    title: str
    text: str = ""
    shows: str = ""
    access: str = "anyone"

    @property
    def words(self) -> tuple[str, ...]:
        """The words of the address, for names of controllers and templates."""
        return tuple(re.findall(r"[a-z0-9]+", self.path)) or ("home",)


class Brief(NamedTuple):
    """What a module is; ``text`` is the file it was read from, empty when it came from options."""

    name: NameFamily
    summary: str = ""
    version: str = "0.1.0"
    author: str = ""
    group: str = ""
    licence: str = ""
    needs: tuple[str, ...] = ()
    records: tuple[Record, ...] = ()
    pages: tuple[Page, ...] = ()

    def record(self, name: str) -> Record | None:
        """Return the record of that name in any spelling, or None."""
        wanted = name.replace(" ", "").replace("_", "").lower()
        return next((one for one in self.records if one.name.camel.lower() == wanted), None)

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
        if self.records:
            data["record"] = [_record_data(record) for record in self.records]
        if self.pages:
            data["page"] = [_page_data(page) for page in self.pages]
        return data


def _record_data(record: Record) -> dict[str, Any]:
    data: dict[str, Any] = {"name": record.name.title, "fields": [spell_field(one) for one in record.fields]}
    if record.summary:
        data["summary"] = record.summary
    if record.order_by:
        data["order_by"] = list(record.order_by)
    if record.plural_title:
        data["plural"] = record.plural_title
    return data


def _page_data(page: Page) -> dict[str, Any]:
    data = {"path": page.path, "title": page.title}
    for key in ("text", "shows"):
        if getattr(page, key):
            data[key] = getattr(page, key)
    if page.access != "anyone":
        data["access"] = page.access
    return data


def spell_field(one: Field) -> str:
    """Write a field back in the field grammar, so that reading it gives the same field."""
    if one.is_relation:
        text = f"{one.name} {'->>' if one.type == 'many' else '->'} {one.target}"
        text += f" ({one.reverse})" if one.reverse else ""
    else:
        sizes = {
            "text": str(one.length),
            "decimal": f"{one.digits},{one.places}",
            "choice": ", ".join(f'{choice.value}="{choice.label}"' for choice in one.choices),
        }.get(one.type)
        text = f"{one.name}: {one.type}" + (f"({sizes})" if sizes else "")
    text += ", optional" if one.optional else ""
    text += ", unique" if one.unique else ""
    text += f', default "{one.default}"' if one.default is not None else ""
    return text + (f', help "{one.help}"' if one.help else "")


_SHAPES: dict[str, dict[str, Any]] = {
    "module": dict.fromkeys(("name", "internal", "owner", "summary", "version", "author", "group", "licence"), str)
    | {"needs": list},
    "record": {"name": str, "fields": list, "summary": str, "order_by": list, "plural": str},
    "page": {"path": str, "title": str, "text": str, "shows": str, "access": str},
}
_REPEATED = ("record", "page")
_WORDS = {str: "text", list: "a list of text", dict: "a table"}


def brief_from_toml(text: str, place: str) -> Brief:
    """Read a brief.

    text  -- the file's text, place -- its path, for messages

    Raises WrongUse that lists every problem with its line and the nearest known key.
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        where = re.search(r"\(at line (\d+), column (\d+)\)", str(error))
        line = where.group(1) if where else str(text.count("\n") + 1)
        reason = str(error).split(" (at ")[0]
        raise WrongUse(
            "brief-broken",
            f"{place}:{line}: this is not TOML: {reason}.",
            "Mend that line; text stands in double quotes, lists in square brackets.",
        ) from None
    return brief_from_data(data, text, place)


def brief_from_data(data: dict[str, Any], text: str, place: str) -> Brief:
    """Make a brief of the plain data that was read from ``text``, which it is needed with to tell lines."""
    import copy

    return _Reader(text, place).brief(copy.deepcopy(data))


class _Reader:
    """Turns plain data into a brief and collects every problem on the way."""

    def __init__(self, text: str, place: str) -> None:
        self.text = text
        self.place = place
        self.problems: list[Problem] = []

    def brief(self, data: dict[str, Any]) -> Brief:
        known = ("format", *_SHAPES)
        for key in data:
            if key not in known:
                self.problem((key,), f"unknown part {key!r}", did_you_mean(key, known))
        if data.get("format", FORMAT) != FORMAT:
            self.problem(("format",), f"unknown format {data['format']!r}", f'This version reads "{FORMAT}".')
        module = data.get("module")
        if not isinstance(module, dict):
            self.problem((), "there is no [module] table", 'Begin with [module] and name = "…".')
            module = {}
        self.shape(("module",), module, _SHAPES["module"])
        parts = {kind: self.parts(kind, data.get(kind, [])) for kind in _REPEATED}
        records = [self.record(index, entry) for index, entry in enumerate(parts["record"])]
        pages = [self.page(index, entry) for index, entry in enumerate(parts["page"])]
        name = self.attempt(("module", "name"), lambda: module_name(module))
        if not self.problems and name is not None:
            brief = Brief(
                name,
                records=tuple(one for one in records if one),
                pages=tuple(one for one in pages if one),
                needs=tuple(module.get("needs", ())),
                **{key: module[key] for key in ("summary", "version", "author", "group", "licence") if key in module},
            )
            self.problems += [Problem(self.where(path), what, remedy) for path, what, remedy in contradictions(brief)]
            if not self.problems:
                return brief
        count = len(self.problems)
        raise WrongUse(
            "brief-wrong",
            f"{self.place}: {count} problem{'s' if count > 1 else ''} in the brief.",
            "Mend what is listed; `swift-sprout new --help` shows a whole brief.",
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

    def parts(self, kind: str, entries: Any) -> list[dict[str, Any]]:
        if not isinstance(entries, list) or not all(isinstance(entry, dict) for entry in entries):
            self.problem((kind,), f"{kind} must be a list of tables", f"Write [[{kind}]] before each.")
            return []
        for index, entry in enumerate(entries):
            self.shape((kind, index), entry, _SHAPES[kind])
        return entries

    def shape(self, path: tuple[str | int, ...], entry: dict[str, Any], shape: dict[str, Any]) -> None:
        for key, value in list(entry.items()):
            wanted = shape.get(key)
            if wanted is None:
                self.problem((*path, key), f"unknown key {key!r} in {path[0]}", did_you_mean(key, shape))
            elif not isinstance(value, wanted) or (wanted is list and not all(isinstance(item, str) for item in value)):
                self.problem((*path, key), f"{key} must be {_WORDS[wanted]}, not {value!r}", "")
            else:
                continue
            del entry[key]

    def record(self, index: int, entry: dict[str, Any]) -> Record | None:
        path = ("record", index)
        if "name" not in entry or not entry.get("fields"):
            missing = "name" if "name" not in entry else "fields"
            self.problem((*path, missing), f"a record has no {missing}", f"Add {missing} = …")
            return None
        before = len(self.problems)
        fields = [
            self.attempt((*path, "fields"), lambda text=text: parse_field(text))  # type: ignore[misc]
            for text in entry["fields"]
        ]
        name = self.attempt((*path, "name"), lambda: name_family(entry["name"], what="record"))
        if len(self.problems) > before:
            return None
        return Record(
            name, tuple(fields), entry.get("summary", ""), tuple(entry.get("order_by", ())), entry.get("plural", "")
        )

    def page(self, index: int, entry: dict[str, Any]) -> Page | None:
        if "path" not in entry:
            self.problem(("page", index), "a page has no path", 'Add path = "/…".')
            return None
        return self.attempt(  # type: ignore[no-any-return]
            ("page", index, "path"),
            lambda: make_page(
                entry["path"],
                entry.get("title", ""),
                entry.get("text", ""),
                entry.get("shows", ""),
                entry.get("access", "anyone"),
            ),
        )


def module_name(module: dict[str, Any]) -> NameFamily:
    """Return the name family that a ``[module]`` table says; raises WrongUse."""
    if "name" not in module:
        raise WrongUse("brief-no-name", "the module has no name", 'Add name = "…" under [module].')
    return name_family(module["name"], internal=module.get("internal", ""), owner=module.get("owner", ""))


def make_page(path: str, title: str = "", text: str = "", shows: str = "", access: str = "anyone") -> Page:
    """Make a page from what was given; the title follows from the path when there is none. Raises WrongUse."""
    plain = "/" + path.strip().strip("/")
    if not re.fullmatch(r"/|(/[a-z0-9][a-z0-9._-]*)+", plain):
        raise WrongUse(
            "page-path",
            f"A page cannot have the path {path!r}.",
            "Use lower-case letters, digits, hyphens and slashes, such as /tides/today.",
        )
    words = re.findall(r"[a-z0-9]+", plain)
    return Page(plain, title.strip() or " ".join(words).capitalize() or "Home", text, shows, _access(access))


def _access(text: str) -> str:
    plain = " ".join(text.replace("-", " ").split())
    if plain in ("anyone", "signed in", "staff") or re.fullmatch(
        r"may (read|create|change|delete) [A-Za-z][A-Za-z0-9 ]*", plain
    ):
        return plain
    raise WrongUse(
        "page-access",
        f"Access {text!r} is not known.",
        "Say anyone, signed in, staff, or may read|create|change|delete RECORD.",
    )


def contradictions(brief: Brief) -> list[tuple[tuple[str | int, ...], str, str]]:
    """Return what in a brief contradicts itself: path of the key, what is wrong, remedy."""
    found: list[tuple[tuple[str | int, ...], str, str]] = []
    seen: dict[str, int] = {}
    own = [record.name.title for record in brief.records]
    for index, record in enumerate(brief.records):
        if record.name.snake in seen:
            found.append((("record", index, "name"), f"the record {record.name.title!r} is there twice", "Rename one."))
        seen[record.name.snake] = index
        names = [one.name for one in record.fields]
        for name in sorted({name for name in names if names.count(name) > 1}):
            found.append(
                (("record", index, "fields"), f"{record.name.title} has the field {name!r} twice", "Rename one.")
            )
        for one in record.fields:
            foreign = "." in one.target or one.target in ("user", "")
            if one.is_relation and not foreign and brief.record(one.target) is None:
                found.append(
                    (
                        ("record", index, "fields"),
                        f"{record.name.title}.{one.name} points at {one.target!r}, which this module does not have",
                        did_you_mean(one.target, own) + " A record of another module is written module.Record.",
                    )
                )
        for key in record.order_by:
            if key.lstrip("-") not in names:
                found.append(
                    (
                        ("record", index, "order_by"),
                        f"{record.name.title} is ordered by {key!r}, which is no field of it",
                        did_you_mean(key.lstrip("-"), names),
                    )
                )
    paths: set[str] = set()
    for index, page in enumerate(brief.pages):
        if page.path in paths:
            found.append((("page", index, "path"), f"the path {page.path} is there twice", "Change one."))
        paths.add(page.path)
        named = [page.shows] if page.shows else []
        if page.access.startswith("may "):
            named.append(page.access.split(" ", 2)[2])
        for name in named:
            if brief.record(name) is None:
                key = "shows" if name == page.shows else "access"
                found.append(
                    (
                        ("page", index, key),
                        f"the page {page.path} names the record {name!r}, which this module does not have",
                        did_you_mean(name, own),
                    )
                )
    return found
