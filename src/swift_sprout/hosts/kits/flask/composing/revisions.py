"""Revisions of the site's database: the difference between the records of two briefs, as Alembic's operations."""

from __future__ import annotations

import hashlib
import re
from typing import Any, NamedTuple

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.fields import Field
from .....core.parts.records import Record
from .....core.parts.renamed import renamed_records
from ....contract.kitdata import KitData
from ....shared.generating import templates_of
from ....shared.rendering import python_text, tidy_python
from .mapped import checks, default_of, in_order, mapped_type, sizes, table_of, target_of

NAME_LENGTH = 12  # as Alembic names its own


class NewRevision(NamedTuple):
    """A revision to be written: the name of its file, and its text."""

    file: str
    text: str


class _Steps(NamedTuple):
    """The statements that lead there, and those that lead back, each in their order."""

    told: str
    there: list[str]
    back: list[str]


def revision(data: KitData, before: Brief | None, after: Brief, head: str) -> NewRevision | None:
    """Return the revision that leads from one brief's tables to another's; None when none is needed.

    before -- None for a module of which nothing is there yet
    head   -- the name of the revision that it follows; empty for none

    Raises WrongUse when rows that are there could not be given a value.
    """
    steps = list(_steps(data, before, after))
    if not steps:
        return None
    there = [line for step in steps for line in step.there]
    back = [line for step in reversed(steps) for line in step.back]
    told = steps[0].told + (" and more" if len(steps) > 1 else "")
    name = hashlib.sha256("\n".join([head, *there]).encode("utf-8")).hexdigest()[:NAME_LENGTH]
    values: dict[str, Any] = {
        "told": f"{after.name.title}: {told}.",
        "revision": name,
        "follows": python_text(head) if head else "None",
        "follows_text": head,
        "there": [{"line": line} for line in there],
        "back": [{"line": line} for line in back],
    }
    text = tidy_python(templates_of(data).fill("migration.py.mustache", values))
    slug = re.sub(r"\W+", "_", f"{after.name.snake} {told}").strip("_").lower()[:40].rstrip("_")
    return NewRevision(f"{name}_{slug}.py", text)


def _steps(data: KitData, before: Brief | None, after: Brief) -> list[_Steps]:
    old = {record.name.camel: record for record in before.records} if before is not None else {}
    new = {record.name.camel: record for record in after.records}
    found = []
    for one, other in renamed_records(before.records, after.records) if before is not None else ():
        found.append(_renamed_table(one, table_of(after, one), table_of(after, other)))
        old[other.name.camel] = old.pop(one.name.camel)
    found += [_created(data, after, record) for record in in_order(after) if record.name.camel not in old]
    for name, record in new.items():
        if name in old and before is not None:
            found += _changed(data, before, old[name], after, record)
    for name in reversed(list(old)):
        if name not in new and before is not None:
            made = _created(data, before, old[name])
            found.append(_Steps(f"drop {table_of(before, old[name])}", made.back, made.there))
    return found


def _renamed_table(record: Record, was: str, now: str) -> _Steps:
    """Return the steps that give a table another name, and its indexes theirs: what tells them holds the table's."""
    indexes = [f"{field.name}_id" for field in record.fields if field.type == "one"]

    def renamed(old: str, new: str) -> list[str]:
        lines = [f'op.drop_index("ix_{old}_{one}", {python_text(old)})' for one in indexes]
        lines.append(f"op.rename_table({python_text(old)}, {python_text(new)})")
        return lines + [
            f'op.create_index("ix_{new}_{one}", {python_text(new)}, [{python_text(one)}])' for one in indexes
        ]

    return _Steps(f"rename {was}", renamed(was, now), renamed(now, was))


def _created(data: KitData, brief: Brief, record: Record) -> _Steps:
    table = table_of(brief, record)
    columns = ['sa.Column("id", sa.Integer(), primary_key=True)']
    columns += [_column(data, brief, record, field, inside=True) for field in record.fields]
    columns += [
        f"sa.CheckConstraint({python_text(text)}, name={python_text(name)})" for name, text in checks(brief, record)
    ]
    indexes = [f"{field.name}_id" for field in record.fields if field.type == "one"]
    there = [f"op.create_table({python_text(table)}, {', '.join(columns)})"]
    there += [f'op.create_index("ix_{table}_{one}", {python_text(table)}, [{python_text(one)}])' for one in indexes]
    back = [f'op.drop_index("ix_{table}_{one}", {python_text(table)})' for one in reversed(indexes)]
    return _Steps(f"create {table}", there, [*back, f"op.drop_table({python_text(table)})"])


def _name(field: Field) -> str:
    return f"{field.name}_id" if field.type == "one" else field.name


def _type(data: KitData, record: Record, field: Field) -> str:
    if field.type == "one":
        return "sa.Integer()"
    spelled = mapped_type(data, record, field).column.format(**sizes(field))
    return f"sa.{spelled}" if spelled.endswith(")") else f"sa.{spelled}()"


def _column(data: KitData, brief: Brief, record: Record, field: Field, inside: bool) -> str:
    """Spell a column; ``inside`` a new table what it points at stands beside it, else that is named."""
    words = [python_text(_name(field)), _type(data, record, field)]
    if field.type == "one":
        target = table_of(brief, target_of(data, brief, record, field))
        named = "" if inside else f', name="fk_{table_of(brief, record)}_{_name(field)}"'
        words.append(f'sa.ForeignKey("{target}.id"{named})')
    words.append(f"nullable={field.optional}")
    words += ["unique=True"] if field.unique and inside else []
    words += [f"server_default={default}"] if not inside and (default := _server_default(record, field)) else []
    return f"sa.Column({', '.join(words)})"


def _server_default(record: Record, field: Field) -> str:
    """Return what rows that are there already get; raises WrongUse where they could be given nothing."""
    if field.optional:
        return ""
    if field.unique or field.type == "one":
        said = ""
    elif field.type == "yes/no":
        said = f"sa.{default_of(field).lower()}()"
    elif field.default in ("today", "now"):
        said = "sa.func.current_date()" if field.default == "today" else "sa.func.current_timestamp()"
    else:
        said = python_text(field.default) if field.default is not None else ""
    if not said:
        raise WrongUse(
            "field-without-value",
            f"{record.name.title}.{field.name}: rows that are there already could not be given a value.",
            "Make the field optional, or give it a default.",
        )
    return said


def _changed(data: KitData, before: Brief, old: Record, after: Brief, new: Record) -> list[_Steps]:
    table = table_of(after, new)
    renamed = _renamed(data, old, new)
    was = {renamed.get(field.name, field.name): field for field in old.fields}
    now = {field.name: field for field in new.fields}
    there: list[str] = []
    back: list[str] = []
    told = ""
    for name, field in was.items():
        if name not in now:
            told = told or f"drop {table} {_name(field)}"
            there += _without(table, field)
            back += _with(data, before, old, field)
        elif field.name != name:
            told = told or f"rename {table} {_name(field)} to {_name(now[name])}"
            there.append(_renaming(_name(field), _name(now[name])))
            back.append(_renaming(_name(now[name]), _name(field)))
    for name, field in now.items():
        if name not in was:
            told = told or f"add {table} {_name(field)}"
            there += _with(data, after, new, field)
            back += _without(table, field)
        else:
            altered = _altered(data, old, was[name], new, field)
            if altered:
                told = told or f"alter {table} {_name(field)}"
                there.append(altered)
                back.append(_altered(data, new, field, old, was[name]))
    if not there:
        return []
    opening = f"with op.batch_alter_table({python_text(table)}) as batch:"
    return [_Steps(told, [opening, *_inside(there)], [opening, *_inside(list(reversed(back)))])]


def _inside(lines: list[str]) -> list[str]:
    return [f"    {line}" for line in lines]


def _with(data: KitData, brief: Brief, record: Record, field: Field) -> list[str]:
    table = table_of(brief, record)
    found = [f"batch.add_column({_column(data, brief, record, field, inside=False)})"]
    if field.type == "one":
        found.append(f'batch.create_index("ix_{table}_{_name(field)}", [{python_text(_name(field))}])')
    if field.unique:
        found.append(f'batch.create_unique_constraint("uq_{table}_{_name(field)}", [{python_text(_name(field))}])')
    return found


def _without(table: str, field: Field) -> list[str]:
    index = [f'batch.drop_index("ix_{table}_{_name(field)}")'] if field.type == "one" else []
    return [*index, f"batch.drop_column({python_text(_name(field))})"]


def _renaming(name: str, other: str) -> str:
    return f"batch.alter_column({python_text(name)}, new_column_name={python_text(other)})"


def _altered(data: KitData, old: Record, was: Field, new: Record, now: Field) -> str:
    """Return the statement that makes a column what it shall be; empty where it is that."""
    words = [python_text(_name(now)), f"existing_type={_type(data, old, was)}"]
    if _type(data, old, was) != _type(data, new, now):
        words.append(f"type_={_type(data, new, now)}")
    if was.optional != now.optional:
        words.append(f"nullable={now.optional}")
    return f"batch.alter_column({', '.join(words)})" if len(words) > 2 else ""


def _renamed(data: KitData, old: Record, new: Record) -> dict[str, str]:
    """Return the fields that have another name now: of the same sort, in the same place among the fields."""
    names, others = {field.name for field in old.fields}, {field.name for field in new.fields}
    return {
        one.name: two.name
        for one, two in zip(old.fields, new.fields, strict=False)
        if one.name not in others
        and two.name not in names
        and one._replace(name="", label="", help="") == two._replace(name="", label="", help="")
    }
