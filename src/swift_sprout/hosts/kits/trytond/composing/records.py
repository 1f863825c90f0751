"""Records: their models, views, actions and rights."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.fields import Field
from .....core.names import name_family
from .....core.parts.records import Record
from ....contract.kitdata import KitData
from ....shared.rendering import python_docstring, python_text
from ..facts import trytond
from .shared import MODES, Values, holders_of, model_name, rights_of

_NAMING = ("text", "long text", "email", "link", "slug", "uuid")
_NO_COLUMN = ("many", "long text", "file")


def record_values(data: KitData, brief: Brief, record: Record, position: int) -> Values:
    """Return the values that templates take of a record."""
    model = model_name(brief, record)
    fields = [field_values(data, brief, record, field) for field in record.fields]
    reverse = _reverse_fields(brief, record)
    shown = [field for field in fields if field["kind"] not in _NO_COLUMN] or fields[:1]
    title = record.title_field.name
    columns = [{**field, "leads": field["name"] == title} for field in shown[:6]]
    if not any(column["leads"] for column in columns):
        columns[0]["leads"] = True
    uniques = [field for field, said in zip(fields, record.fields, strict=True) if said.unique]
    links = [_link(brief, record, field) for field in record.fields if field.type == "many"]
    imports = ["import datetime"] if any("datetime." in field["default"] for field in fields) else []
    imports += ["from decimal import Decimal"] if any("Decimal(" in field["default"] for field in fields) else []
    imports += [""] if imports else []
    names = "ModelSQL, ModelView, Unique, fields" if uniques else "ModelSQL, ModelView, fields"
    imports += [f"from trytond.model import {names}"]
    imports += ["from trytond.pool import Pool" for _ in [0] if any("Pool()" in field["default"] for field in fields)]
    return {
        "record": record.name.camel,
        "snake": record.name.snake,
        "model": model,
        "record_title": record.name.title,
        "plural_title": record.plural.title,
        "docstring": python_docstring(record.summary or f"{record.name.title}."),
        "rec_name": title,
        "has_rec_name": record.title_field.type in _NAMING,
        "shown_as": _shown_as(record.title_field),
        "ordering": python_text(_order(record)),
        "record_sequence": str(10 * position + 10),
        "fields": fields + reverse,
        "form_fields": fields,
        "columns": columns,
        "column_names": python_text([column["name"] for column in columns]).replace('"', "'"),
        "all_names": python_text([field["name"] for field in fields + reverse]).replace('"', "'"),
        "form_names": python_text([field["name"] for field in fields if field["kind"] not in ("many", "file")]),
        "data_names": python_text([field["name"] for field in fields if field["kind"] != "file"]),
        "defaults": [field for field in fields if field["default"]],
        "uniques": [
            {
                **field,
                "constraint": f"{field['name']}_unique",
                "message": f"{brief.name.snake}.msg_{record.name.snake}_{field['name']}_unique",
            }
            for field in uniques
        ],
        "has_uniques": bool(uniques),
        "links": links,
        "model_imports": [{"line": line} for line in imports],
        "readers": [{"reader": key} for key in holders_of(brief, record.name.title, "read")],
        "accesses": _accesses(brief, record),
        "buttons": _buttons(brief, record),
        "sampled": [field for field in fields if field["sample"]],
    }


def _shown_as(field: Field) -> str:
    """Spell how a record is named whose title is no text: the host takes only texts by themselves."""
    if field.type == "one":
        return f'self.{field.name}.rec_name if self.{field.name} else ""'
    if field.type == "choice":
        return f'dict(self.fields_get(["{field.name}"])["{field.name}"]["selection"]).get(self.{field.name}, "")'
    return f"str(self.{field.name})"


def _order(record: Record) -> list[tuple[str, str]]:
    said = [(key.lstrip("-"), "DESC" if key.startswith("-") else "ASC") for key in record.order_by]
    orderable = [one.name for one in record.fields if one.type not in _NO_COLUMN]
    chosen = said or [(name, "ASC") for name in orderable[:1]]
    return chosen if any(name == "id" for name, _ in chosen) else [*chosen, ("id", "ASC")]


def field_values(data: KitData, brief: Brief, owner: Record | str, field: Field) -> Values:
    """Return the values that templates take of a field; ``owner`` is its record, or a word for messages."""
    title = owner if isinstance(owner, str) else owner.name.title
    shared = [f"help={python_text(field.help)}"] if field.help else []
    shared += [] if field.optional or field.type in ("yes/no", "many") else ["required=True"]
    label = python_text(field.label)
    found: Values = {"name": field.name, "field_label": field.label, "kind": field.type}
    if field.is_relation:
        assert not isinstance(owner, str)
        return {**found, **_relation(brief, owner, field, label, shared)}
    known = trytond(data).fields.get(field.type)
    if known is None:
        raise WrongUse(
            "field-not-carried",
            f"{title}.{field.name}: {data.title} modules carry no field of type {field.type}.",
            f"The nearest is long text. Known here: {', '.join(trytond(data).fields)}.",
        )
    sizes = {
        "length": field.length,
        "whole": (field.digits or 16) - (field.places or 0),
        "places": field.places,
        "choices": _choices(field),
        "sample_text": python_text("Sample"[: field.length or 6]),
        "first_choice": python_text(field.choices[0].value) if field.choices else "",
    }
    own = [text.format(**sizes) for text in known.arguments if field.length or "length" not in text]
    arguments = [*own, label] if known.first else [label, *own]
    return {
        **found,
        "definition": _call(f"fields.{known.field_class}", [*arguments, *shared], field.name),
        "default": _default(field),
        "is_wide": known.wide,
        "sample": known.example.format(**sizes),
        "values": python_text([choice.value for choice in field.choices]),
    }


def _call(function: str, arguments: list[str], name: str) -> str:
    plain = f"{function}({', '.join(arguments)})"
    if len(name) + len(plain) + 7 <= 110:
        return plain
    return f"{function}(\n" + "".join(f"        {argument},\n" for argument in arguments) + "    )"


def _choices(field: Field) -> str:
    pairs = [(choice.value, choice.label) for choice in field.choices]
    return python_text(([("", "")] if field.optional else []) + pairs)


def _default(field: Field) -> str:
    if field.type == "yes/no":
        return str((field.default or "no").lower() in ("yes", "true"))
    if field.default is None:
        return ""
    if field.type in ("integer", "number"):
        return repr(int(field.default) if field.type == "integer" else float(field.default))
    if field.type == "decimal":
        return f"Decimal({python_text(field.default)})"
    moments = {"today": 'Pool().get("ir.date").today()', "now": "datetime.datetime.now()"}
    if field.type in ("date", "datetime", "time"):
        spelled = moments.get(field.default, f"datetime.{field.type}.fromisoformat({python_text(field.default)})")
        return "datetime.datetime.now().time()" if (field.type, field.default) == ("time", "now") else spelled
    return python_text(field.default)


def target_of(brief: Brief, field: Field) -> str:
    """Return the host's name of the record that a relation points at."""
    if field.target == "user":
        return "res.user"
    own = brief.record(field.target) if "." not in field.target else None
    if own is not None:
        return model_name(brief, own)
    if field.target.islower():
        return field.target  # as the host names it already
    module, _, name = field.target.partition(".")
    return f"{module}.{name_family(name, what='record').snake}"


def _relation(brief: Brief, owner: Record, field: Field, label: str, shared: list[str]) -> Values:
    target = target_of(brief, field)
    own = brief.record(field.target) if "." not in field.target and field.target != "user" else None
    if field.type == "many":
        arguments = [python_text(_link_name(brief, owner, field)), python_text(owner.name.snake), '"target"', label]
        definition = _call("fields.Many2Many", [*arguments, *shared], field.name)
        return {"definition": definition, "default": "", "is_wide": True, "sample": "", "values": "[]"}
    policy = [] if field.optional else ['ondelete="RESTRICT"']
    sample = ""
    if not field.optional:
        sample = f'values.get("{field.name}") or {own.name.snake}().id' if own else _any_of(target)
    definition = _call("fields.Many2One", [python_text(target), label, *policy, *shared], field.name)
    return {"definition": definition, "default": "", "is_wide": False, "sample": sample, "values": "[]"}


def _any_of(target: str) -> str:
    return f"Pool().get({python_text(target)}).search([], limit=1)[0].id"


def _link_name(brief: Brief, owner: Record, field: Field) -> str:
    return f"{model_name(brief, owner)}-{field.name}"


def _link(brief: Brief, owner: Record, field: Field) -> Values:
    return {
        "link": f"{owner.name.camel}{''.join(word.title() for word in field.name.split('_'))}",
        "link_docstring": python_docstring(f"Which {field.label.lower()} belong to a {owner.name.title.lower()}."),
        "link_model": _link_name(brief, owner, field),
        "origin": owner.name.snake,
        "other": "target",
        "other_target": python_text(target_of(brief, field)),
        "other_title": field.label,
    }


def _reverse_fields(brief: Brief, record: Record) -> list[Values]:
    """Return the fields under which other records of the module reach back to one."""
    found = []
    for other in brief.records:
        for field in other.fields:
            if (
                field.type == "one"
                and field.reverse
                and brief.record(field.target) is record
                and "." not in field.target
            ):
                label = other.plural.title
                arguments = [python_text(model_name(brief, other)), python_text(field.name), python_text(label)]
                found.append(
                    {
                        "name": field.reverse,
                        "field_label": label,
                        "kind": "reverse",
                        "definition": _call("fields.One2Many", arguments, field.reverse),
                        "default": "",
                        "values": "[]",
                        "sample": "",
                    }
                )
    return found


def _accesses(brief: Brief, record: Record) -> list[Values]:
    found = []
    for key, rights in rights_of(brief).items():
        verbs = {verb for what, verb in rights if what == record.name.title}
        if verbs:
            found.append({"holder": key} | {f"may_{verb}": str(verb in verbs) for verb in MODES})
    return found


def _buttons(brief: Brief, record: Record) -> list[Values]:
    own = [one for one in brief.permissions if brief.record(one.on or brief.records[0].name.title) is record]
    return [
        {
            "button": one.key,
            "button_title": one.name.title,
            "button_groups": [{"holder": key} for key in holders_of(brief, one.key, "")],
        }
        for one in own
    ]
