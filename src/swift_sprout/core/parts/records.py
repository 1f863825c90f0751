"""Record types."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from ..errors import WrongUse
from ..fields import Field, parse_field, parse_record_line, spell_field
from ..names import NameFamily, name_family, words_of
from ..nearest import did_you_mean
from .kinds import Contradiction, Kind

if TYPE_CHECKING:
    from ..brief import Brief


class Record(NamedTuple):
    """A record type: its name family (singular), its fields in order, and how people see it.

    shown_as -- the field whose value stands for a record wherever one is named; empty for the first text
    """

    name: NameFamily
    fields: tuple[Field, ...]
    summary: str = ""
    order_by: tuple[str, ...] = ()
    plural_title: str = ""
    shown_as: str = ""

    @property
    def plural(self) -> NameFamily:
        """The family of the plural: of the title that the brief says, as far as names can be made of it."""
        if not self.plural_title:
            return self.name.plural
        words, foreign = words_of(self.plural_title)
        usable = words and not foreign and not words[0][0].isdigit()
        return NameFamily(self.plural_title, words if usable else self.name.plural.words)

    @property
    def key(self) -> str:
        """What tells it from other records."""
        return self.name.snake

    def field(self, name: str) -> Field | None:
        """Return a field by its name, or None."""
        return next((one for one in self.fields if one.name == name), None)

    @property
    def title_field(self) -> Field:
        """The field that stands for a record wherever one is named."""
        chosen = self.field(self.shown_as)
        texts = (one for one in self.fields if one.type in ("text", "choice", "email", "slug", "link"))
        return chosen or next(texts, self.fields[0])


def _make(entry: dict[str, Any]) -> Record:
    if not entry["fields"]:
        raise WrongUse("record-empty", "a record has no fields", 'Add fields = ["name: text(40)"].')
    fields = tuple(parse_field(text) for text in entry["fields"])
    name = name_family(entry["name"], what="record")
    order, plural = tuple(entry.get("order_by", ())), entry.get("plural", "")
    return Record(name, fields, entry.get("summary", ""), order, plural, entry.get("shown_as", ""))


def _data(record: Record) -> dict[str, Any]:
    data: dict[str, Any] = {"name": record.name.title, "fields": [spell_field(one) for one in record.fields]}
    if record.summary:
        data["summary"] = record.summary
    if record.order_by:
        data["order_by"] = list(record.order_by)
    if record.plural_title:
        data["plural"] = record.plural_title
    if record.shown_as:
        data["shown_as"] = record.shown_as
    return data


def _against(record: Record, brief: Brief) -> Iterator[Contradiction]:
    own = [one.name.title for one in brief.records]
    names = [one.name for one in record.fields]
    title = record.name.title
    for name in sorted({name for name in names if names.count(name) > 1}):
        yield Contradiction("fields", f"{title} has the field {name!r} twice", "Rename one.")
    for one in record.fields:
        foreign = "." in one.target or one.target in ("user", "")
        if one.is_relation and not foreign and brief.record(one.target) is None:
            yield Contradiction(
                "fields",
                f"{title}.{one.name} points at {one.target!r}, which this module does not have",
                did_you_mean(one.target, own) + " A record of another module is written module.Record.",
            )
    yield from _reverse_names(record, brief)
    circle = _required_circle(record, brief)
    if circle:
        yield Contradiction(
            "fields",
            f"{' -> '.join(circle)}: each needs the other first, so that none can ever be kept",
            "Make one of these relations optional.",
        )
    for key in record.order_by:
        if key.lstrip("-") not in names:
            yield Contradiction(
                "order_by",
                f"{title} is ordered by {key!r}, which is no field of it",
                did_you_mean(key.lstrip("-"), names),
            )
    if record.shown_as and record.shown_as not in names:
        yield Contradiction(
            "shown_as",
            f"{title} is shown as {record.shown_as!r}, which is no field of it",
            did_you_mean(record.shown_as, names),
        )


def _reverse_names(record: Record, brief: Brief) -> Iterator[Contradiction]:
    """Two relations to one record cannot reach back under one name, nor under that of a field of the target."""
    for field in record.fields:
        target = brief.record(field.target) if field.is_relation else None
        if target is None:
            continue
        name = field.reverse or f"{record.name.camel.lower()}_set"
        others = [
            f"{other.name.title}.{one.name}"
            for other in brief.records
            for one in other.fields
            if one.is_relation
            and brief.record(one.target) is target
            and (one.reverse or f"{other.name.camel.lower()}_set") == name
            and one is not field
        ]
        if target.field(name):
            others.append(f"the field {target.name.title}.{name}")
        if others:
            yield Contradiction(
                "fields",
                f"{record.name.title}.{field.name} is reached back from {target.name.title} as {name!r}, "
                f"as {others[0]} is",
                f"Say another name: {field.name} -> {field.target} ({field.name}_{record.name.plural.snake}).",
            )


def _required_circle(record: Record, brief: Brief) -> list[str]:
    """Return the records of a circle of relations that all must be filled, from this record and back to it."""
    trail: list[Record] = []

    def follow(one: Record) -> list[str]:
        if one in trail:
            return [held.name.title for held in [*trail[trail.index(one) :], one]] if one is record else []
        trail.append(one)
        for field in one.fields:
            target = brief.record(field.target) if field.type == "one" and not field.optional else None
            found = follow(target) if target is not None else []
            if found:
                return found
        trail.pop()
        return []

    return follow(record)


def from_line(text: str) -> dict[str, Any]:
    """Read ``Name: field, field, …`` as the data of a part that has a name and fields; raises WrongUse."""
    name, fields = parse_record_line(text)
    return {"name": name, "fields": [spell_field(one) for one in fields]}


MAKES = {
    "record": Kind(
        "record",
        {
            "name": "text",
            "fields": "list",
            "summary": "text",
            "order_by": "list",
            "plural": "text",
            "shown_as": "text",
        },
        ("name", "fields"),
        _make,
        _data,
        _against,
        "Booking: berth -> Berth, vessel text(60), arrives date",
        from_line,
    )
}
