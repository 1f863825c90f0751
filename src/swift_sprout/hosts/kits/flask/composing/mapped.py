"""Records where the site has an object mapper: classes of it, and samples of them."""

from __future__ import annotations

from typing import Any, NamedTuple

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.fields import Field
from .....core.parts.records import Record
from ....contract.kitdata import KitData
from ....shared.rendering import python_docstring, python_text
from ..facts import MappedType, flask

Values = dict[str, Any]
DIGITS, PLACES = 10, 2
SHOWN = 6  # fields in a list
LENGTHS = {"text": 200, "slug": 60}


class MapperNames(NamedTuple):
    """How code of a module comes by the mapper, and what the site has beside it.

    module, name -- what to import from where
    revisions    -- whether tables are made by revisions of the site
    forms        -- whether the site has Flask-WTF
    """

    module: str
    name: str
    revisions: bool
    forms: bool


def sizes(field: Field) -> dict[str, int]:
    """Return the sizes of a field's column, said or usual."""
    longest = max((len(one.value) for one in field.choices), default=0)
    length = field.length or longest or LENGTHS.get(field.type, 200)
    digits = field.digits or DIGITS
    return {"length": length, "digits": digits, "places": PLACES if field.places is None else field.places}


def mapped_type(data: KitData, record: Record, field: Field) -> MappedType:
    """Return how a field's type is mapped; raises WrongUse for one that is not."""
    if field.type not in flask(data).fields:
        raise not_carried(data, record, field)
    return flask(data).fields[field.type].mapped


def not_carried(data: KitData, record: Record, field: Field) -> WrongUse:
    """Return the error about a field that Flask modules cannot carry."""
    return WrongUse(
        "field-not-carried",
        f"{record.name.title}.{field.name}: Flask modules carry no field of type {field.type}"
        + (f" to {field.target}." if field.target else "."),
        f"Known here: {', '.join(flask(data).fields)}, and relations to records of the module.",
    )


def target_of(data: KitData, brief: Brief, record: Record, field: Field) -> Record:
    """Return the record of the module that a relation points at; raises WrongUse for one of elsewhere."""
    found = brief.record(field.target) if field.type == "one" and "." not in field.target else None
    if found is None:
        raise not_carried(data, record, field)
    return found


def in_order(brief: Brief) -> list[Record]:
    """Return the records, each behind those that it points at, as far as they do not point at each other."""
    found: list[Record] = []
    waiting = list(brief.records)
    while waiting:
        ready = next((one for one in waiting if _pointed_at(brief, one) <= {*found, one}), waiting[0])
        found.append(ready)
        waiting.remove(ready)
    return found


def _pointed_at(brief: Brief, record: Record) -> set[Record]:
    targets = (brief.record(field.target) for field in record.fields if field.type == "one")
    return {one for one in targets if one is not None}


def table_of(brief: Brief, record: Record) -> str:
    """Return the name of a record's table."""
    return f"{brief.name.snake}_{record.name.snake}"


def mapped_values(data: KitData, brief: Brief, record: Record, mapper: MapperNames) -> Values:
    """Return what the templates take of a record's class."""
    attributes = [_attribute(data, brief, record, field, mapper) for field in record.fields]
    back = _pointing_back(brief, record, mapper)
    constraints = [
        f"{mapper.name}.CheckConstraint({python_text(text)}, name={python_text(name)})"
        for name, text in checks(brief, record)
    ]
    title = record.title_field
    shown = f"self.{title.name}" if _is_text(data, title) else f"str(self.{title.name})"
    shown = f"self.{title.name}_label" if title.choices else shown
    keys = [("desc()" if key.startswith("-") else "", key.lstrip("-")) for key in record.order_by]
    order = [f"{record.name.camel}.{name}" + (f".{way}" if way else "") for way, name in keys]
    query = f"{mapper.name}.select({record.name.camel}).order_by({', '.join(order or [f'{record.name.camel}.id'])})"
    loads = [f"joinedload({record.name.camel}.{one.name})" for one in record.fields[:SHOWN] if one.type == "one"]
    return {
        "record_docstring": python_docstring(record.summary or f"{record.name.title}."),
        "attributes": [{"attribute": line} for lines in [*attributes, back] for line in lines],
        "constraints": ", ".join(constraints) + ("," if constraints else ""),
        "has_constraints": bool(constraints),
        "shown_as": f'{shown} or ""' if title.optional and _is_text(data, title) else shown,
        "items": ", ".join(_items(data, record)),
        "query": query,
        "list_query": query + (f".options({', '.join(loads)})" if loads else ""),
        "loads": bool(loads),
        "made": made_sample(data, brief, record),
        "shows_title": title in record.fields[:SHOWN],
    }


def labels_name(record: Record, field: Field) -> str:
    """Return the name of the constant that holds what people read of a field's choices."""
    return f"{record.name.snake}_{field.name}_labels".upper()


def pairs_of(field: Field) -> str:
    """Return the choices of a field as code: the label of each stored word."""
    return python_text({choice.value: choice.label for choice in field.choices})


def checks(brief: Brief, record: Record) -> list[tuple[str, str]]:
    """Return the name and the text of each check that the database makes: that a choice is one of those."""
    found = []
    for field in record.fields:
        if field.choices:
            values = ", ".join("'" + one.value.replace("'", "''") + "'" for one in field.choices)
            found.append((f"ck_{table_of(brief, record)}_{field.name}", f"{field.name} in ({values})"))
    return found


def _is_text(data: KitData, field: Field) -> bool:
    known = flask(data).fields.get(field.type)
    return known is not None and known.mapped.annotation == "str"


def _attribute(data: KitData, brief: Brief, record: Record, field: Field, mapper: MapperNames) -> list[str]:
    words = []
    if field.type == "one":
        target = target_of(data, brief, record, field)
        column = f"{mapper.name}.ForeignKey({python_text(table_of(brief, target) + '.id')})"
        name, annotation = f"{field.name}_id", "int"
        words = [column, "index=True"]
    else:
        known = mapped_type(data, record, field)
        name, annotation = field.name, known.annotation
        words = [f"{mapper.name}.{known.column.format(**sizes(field))}"]
    words += ["unique=True"] if field.unique else []
    words += [f"default={default}"] if (default := default_of(field)) else []
    optional = " | None" if field.optional else ""
    lines = [f"{name}: Mapped[{annotation}{optional}] = mapped_column({', '.join(words)})"]
    if field.type == "one":
        itself = target.name == record.name
        related = ["lambda: " + target.name.camel, "remote_side=[id]"] if itself else []
        related += [f"foreign_keys=[{name}]"] if _several(brief, record, target) else []
        related += [f"back_populates={python_text(field.reverse)}"] if field.reverse else []
        pointed = f'"{target.name.camel}{optional}"' if itself else f"{target.name.camel}{optional}"
        lines.append(f"{field.name}: Mapped[{pointed}] = {mapper.name}.relationship({', '.join(related)})")
    return lines


def _several(brief: Brief, record: Record, target: Record) -> bool:
    """True where a record points at another one by more fields than one, so that each must say which it means."""
    return sum(field.type == "one" and brief.record(field.target) == target for field in record.fields) > 1


def _pointing_back(brief: Brief, record: Record, mapper: MapperNames) -> list[str]:
    """Return the lists of those that point at a record, where their fields name them.

    Classes are named by functions, not by texts: a text is looked up among all records of the site.
    """
    found = []
    for other in brief.records:
        for field in other.fields:
            if field.reverse and field.type == "one" and brief.record(field.target) == record:
                words = [f"lambda: {other.name.camel}"]
                if _several(brief, other, record):
                    words.append(f"foreign_keys=lambda: {other.name.camel}.{field.name}_id")
                words.append(f"back_populates={python_text(field.name)}")
                many = f'Mapped[list["{other.name.camel}"]]'
                found.append(f"{field.reverse}: {many} = {mapper.name}.relationship({', '.join(words)})")
    return found


def default_of(field: Field) -> str:
    """Return the default of a field as code; empty for none."""
    if field.type == "yes/no":
        return str((field.default or "no") in ("yes", "true"))
    if field.default is None:
        return ""
    moments = {"today": "dt.date.today", "now": "dt.datetime.now"}
    if field.default in moments:
        return moments[field.default]
    if field.type in ("integer", "number"):
        return field.default
    return f"Decimal({python_text(field.default)})" if field.type == "decimal" else python_text(field.default)


def _items(data: KitData, record: Record) -> list[str]:
    found = ['"id": self.id']
    for field in record.fields:
        if field.type == "one":
            found.append(f'"{field.name}": self.{field.name}_id')
            continue
        value = flask(data).fields[field.type].mapped.item.format(value=f"self.{field.name}")
        guarded = field.optional and value != f"self.{field.name}"
        found.append(f'"{field.name}": ' + (f"self.{field.name} and {value}" if guarded else value))
    return found


def _example(data: KitData, field: Field) -> str:
    first = python_text(field.choices[0].value) if field.choices else ""
    example = flask(data).fields[field.type].mapped.example.format(first_choice=first)
    if field.type == "text" and field.length is not None and field.length < len("Sample"):
        return python_text("Sample"[: field.length])
    return example


def made_sample(data: KitData, brief: Brief, record: Record) -> str:
    """Return the code that makes a sample of a record, with those that it points at."""
    words = []
    for field in record.fields:
        if field.type != "one":
            words.append(f"{field.name}={_example(data, field)}")
        elif not field.optional:
            words.append(f"{field.name}={made_sample(data, brief, target_of(data, brief, record, field))}")
    return f"{record.name.camel}({', '.join(words)})"


def model_imports(data: KitData, brief: Brief, mapper: MapperNames) -> list[str]:
    """Return the lines of imports of the file of records."""
    standard = types_needed(data, brief)
    orm = "from sqlalchemy.orm import Mapped, mapped_column"
    return [*standard, *([""] if standard else []), orm, "", f"from {mapper.module} import {mapper.name}"]


_FROM = {"Decimal": "from decimal import Decimal", "UUID": "from uuid import UUID"}


def types_needed(data: KitData, brief: Brief) -> list[str]:
    """Return the imports of the standard library that the types of a module's fields need."""
    found = []
    for record in brief.records:
        for field in record.fields:
            known = flask(data).fields.get(field.type)
            annotation = known.mapped.annotation if known is not None else ""
            if annotation.startswith("dt."):
                found.append("import datetime as dt")
            elif annotation in _FROM:
                found.append(_FROM[annotation])
    return sorted(set(found), key=lambda line: (line.startswith("from"), line))
