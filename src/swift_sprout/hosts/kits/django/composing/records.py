"""Records: their models, administration screens and the functions that make one for the tests."""

from __future__ import annotations

import re
from typing import Any

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.fields import Field
from .....core.names import within_sentence
from .....core.parts.records import Record
from ....contract.kitdata import KitData
from ....shared.rendering import python_docstring, python_text
from ..facts import FieldType, django
from .shared import Values, attribute, call, uses

_RELATION = {"one": "ForeignKey", "many": "ManyToManyField"}
_NO_COLUMN = ("many", "long text", "json", "file", "image", "document", "content")


def record_values(data: KitData, brief: Brief, record: Record) -> Values:
    """Return the values that templates take of a record."""
    fields = [field_values(data, brief, record.name.title, field, in_class=True) for field in record.fields]
    shown = [field for field in fields if field["kind"] not in _NO_COLUMN] or fields[:1]
    title = (
        record.title_field.name if record.title_field.name in {one["name"] for one in shown[:6]} else shown[0]["name"]
    )
    for field in shown:
        field["leads"] = field["name"] == title
    filters = tuple(field["name"] for field in fields if field["kind"] in ("choice", "yes/no"))
    related = tuple(field["name"] for field in shown[:6] if field["kind"] == "one")
    looked_up = tuple(
        one.name for one in record.fields if one.is_relation and (to := brief.record(one.target)) and _searched(to)
    )
    searches = _searched(record)
    return {
        "record": record.name.camel,
        "snake": record.name.snake,
        "record_title": within_sentence(record.name.title),
        "plural_title": record.plural.title,
        "verbose_plural": within_sentence(record.plural.title),
        "docstring": python_docstring(record.summary) if record.summary else "",
        "ordering": python_text(list(record.order_by) or [_default_order(record)]),
        "permissions": _permissions(brief, record),
        "fields": fields,
        "columns": python_text(tuple(field["name"] for field in shown[:6])),
        "columns_shown": shown[:6],
        "column_count": str(len(shown[:6])),
        "filters": python_text(filters) if filters else "",
        "searches": python_text(searches) if searches else "",
        "related": ", ".join(python_text(name) for name in related),
        "related_columns": python_text(related) if related else "",
        "looked_up": python_text(looked_up) if looked_up else "",
        "choice_classes": [one for one in (_choice_class(field) for field in record.fields) if one],
        "absolute_url": "",
        "display": _display(record),
        "form_fields": python_text([field["name"] for field in fields]),
        "offered_fields": python_text([field["name"] for field in fields if field["foreign"] != "user"]),
        "needs_values": any(field["must_fill"] and field["foreign"] != "user" for field in fields),
        "posts": all(field["kind"] in _POSTED for field in fields if field["foreign"] != "user"),
        "owner": next((one["name"] for one in fields if one["foreign"] == "user" and one["kind"] == "one"), ""),
        "fetched": ", ".join(python_text(field["name"]) for field in fields if field["kind"] == "many"),
    }


#  of these, what a record holds can be sent by a form as it is
_POSTED = ("text", "long text", "integer", "decimal", "number", "yes/no", "date", "time", "datetime", "choice", "email",
           "link", "slug", "uuid", "one")  # fmt: skip


def _searched(record: Record) -> tuple[str, ...]:
    """Return the fields by which people look a record up."""
    return tuple(one.name for one in record.fields if one.type in ("text", "long text", "slug", "email"))


#  names that a model has already
_TAKEN = ("Meta", "DoesNotExist", "MultipleObjectsReturned")


def choice_class(field: Field) -> str:
    """Return the name of the class of a field's choices."""
    name = "".join(part.capitalize() for part in field.name.split("_"))
    return f"{name}Choice" if name in _TAKEN else name


def _choice_class(field: Field) -> Values | None:
    """Return the class of a field's choices, with a member for each; None for a field of another type."""
    if field.type != "choice":
        return None
    members: dict[str, Values] = {}
    for choice in field.choices:
        plain = re.sub(r"\W+", "_", choice.value, flags=re.ASCII).strip("_").upper()
        name = plain if plain and plain.isidentifier() else f"VALUE_{plain}".rstrip("_")
        while name in members:
            name += "_2"
        value = python_text(choice.value)
        members[name] = {"member": name, "value": value, "choice_label": python_text(choice.label)}
    return {"choice_class": choice_class(field), "members": list(members.values())}


def _permissions(brief: Brief, record: Record) -> str:
    """Spell the permissions that stand on a record; those that name none stand on the first."""
    own = [
        (one.key, one.name.title)
        for one in brief.permissions
        if brief.record(one.on or brief.records[0].name.title) is record
    ]
    return python_text(own) if own else ""


def _display(record: Record) -> str:
    shown = record.title_field
    spelled = f"self.get_{shown.name}_display()" if shown.type == "choice" else f"self.{shown.name}"
    certain = shown.type in ("text", "choice", "email", "slug", "link") and not (shown.optional and shown.unique)
    return spelled if certain else f"str({spelled})"


def _default_order(record: Record) -> str:
    orderable = [one.name for one in record.fields if one.type not in _NO_COLUMN]
    return orderable[0] if orderable else "id"


def field_values(data: KitData, brief: Brief, owner: str, field: Field, in_class: bool = False) -> Values:
    """Return the values that templates take of a field.

    owner -- names its record for messages; in_class -- its choices are a class of the model
    """
    if field.is_relation:
        return _relation(brief, field)
    known = django(data).fields.get(field.type)
    if known is None:
        raise WrongUse(
            "field-not-carried",
            f"{owner}.{field.name}: {data.title} modules carry no field of type {field.type}.",
            f"Known here: {', '.join(django(data).fields)}.",
        )
    sizes = {
        "length": field.length,
        "digits": field.digits,
        "places": field.places,
        "upload_to": python_text(brief.name.snake),
        "longest_choice": max((len(choice.value) for choice in field.choices), default=0),
        "sample_text": python_text("Sample"[: field.length or 6]),
        "first_choice": python_text(field.choices[0].value) if field.choices else "",
    }
    pieces = "".join(f'\n            ("{piece}", {django(data).pieces[piece]}),' for piece in field.pieces)
    sizes["pieces"] = f"[{pieces}\n        ]"
    choices = f"{choice_class(field)}.choices" if in_class and field.choices else _choices(field, "_({})")
    model = [text.format(**sizes, choices=choices) for text in known.arguments]
    migration = [
        text.format(**sizes, choices=_choices(field, "{}"))
        for text in (known.arguments if known.in_migrations is None else known.in_migrations)
    ]
    shared: list[str] = []
    if field.optional:
        null = known.optional == "null" or field.unique
        null = null and known.optional != "null already"
        shared += ["null=True", "blank=True"] if null else ["blank=True"]
    if field.unique:
        shared.append("unique=True")
    if field.default is not None or (field.type == "yes/no" and not field.optional):
        shared.append(f"default={default_of(field)}")
    verbose = python_text(within_sentence(field.label))
    return {
        "name": field.name,
        "field_label": field.label,
        "kind": field.type,
        "shown": f"get_{field.name}_display" if field.type == "choice" else field.name,
        "as_html": known.as_html.format(name=field.name),
        "model": attribute(field.name, known.field_class, _arguments(known, field, model, shared)),
        "migration": call(known.field_class, [*migration, *shared, f"verbose_name={verbose}", *_help(field, "{}")]),
        "sample": known.example.format(**sizes),
        "as_data": f"record.{field.name}.name" if field.type == "file" else f"record.{field.name}",
        "must_fill": not field.optional
        and field.default is None
        and field.type != "yes/no"
        and known.optional != "null already",
        "target": "",
        "foreign": known.needs_last_of,
    }


def _arguments(known: FieldType, field: Field, first: list[str], rest: list[str]) -> list[str]:
    """Put the label of a field where its class takes it: first, or by its name behind what must come first."""
    label = f"_({python_text(within_sentence(field.label))})"
    words = [*first, f"verbose_name={label}"] if known.label == "named" else [label, *first]
    return [*words, *rest, *_help(field, "_({})")]


def _relation(brief: Brief, field: Field) -> Values:
    own = brief.record(field.target) if "." not in field.target and field.target != "user" else None
    if field.target == "user":
        model_target = migration_target = "settings.AUTH_USER_MODEL"
    elif own is not None:
        model_target = python_text(own.name.camel)
        migration_target = python_text(f"{brief.name.snake}.{own.name.camel.lower()}")
    else:
        module, _, name = field.target.partition(".")
        model_target = python_text(f"{module}.{name.replace(' ', '')}")
        migration_target = python_text(f"{module}.{name.replace(' ', '').lower()}")
    shared: list[str] = []
    if field.optional:
        shared += ["blank=True"] if field.type == "many" else ["null=True", "blank=True"]
    if field.unique and field.type == "one":
        shared.append("unique=True")
    if field.reverse:
        shared.append(f"related_name={python_text(field.reverse)}")
    kind = f"models.{_RELATION[field.type]}"
    policy = "SET_NULL" if field.optional else "PROTECT"
    model_policy = [f"on_delete=models.{policy}"] if field.type == "one" else []
    migration_policy = [f"on_delete=django.db.models.deletion.{policy}"] if field.type == "one" else []
    verbose = python_text(within_sentence(field.label))
    label = [f"verbose_name=_({verbose})"]
    to_label = f"to={migration_target}", f"verbose_name={verbose}"
    return {
        "name": field.name,
        "field_label": field.label,
        "kind": field.type,
        "as_html": "",
        "shown": f'{field.name}.all|join:", "' if field.type == "many" else field.name,
        "model": attribute(field.name, kind, [model_target, *model_policy, *shared, *label, *_help(field, "_({})")]),
        "migration": call(kind, [*migration_policy, *shared, *to_label, *_help(field, "{}")]),
        "sample": "" if field.optional or field.type == "many" else _related_sample(field, own),
        "as_data": f"[one.pk for one in record.{field.name}.all()]"
        if field.type == "many"
        else f"record.{field.name}_id",
        "must_fill": field.type == "one" and not field.optional,
        "target": own.name.camel if own else "",
        "foreign": "" if own else ("user" if field.target == "user" else field.target.partition(".")[0]),
        "foreign_model": "" if own else field.target.rpartition(".")[2].replace(" ", "").lower(),
    }


def _related_sample(field: Field, own: Record | None) -> str:
    if own is not None:
        return f"values.get({python_text(field.name)}) or {own.name.snake}()"
    if field.target == "user":
        return "a_user()"
    return f"values.get({python_text(field.name)}) or a_record({python_text(field.target)})"


def _help(field: Field, wrapper: str) -> list[str]:
    return [f"help_text={wrapper.format(python_text(field.help))}"] if field.help else []


def _choices(field: Field, wrapper: str) -> str:
    pairs = [f"({python_text(one.value)}, {wrapper.format(python_text(one.label))})" for one in field.choices]
    return f"[{', '.join(pairs)}]"


def default_of(field: Field) -> str:
    """Spell a field's default as Python."""
    if field.type == "yes/no":
        return str((field.default or "no").lower() in ("yes", "true"))
    assert field.default is not None
    if field.type == "integer":
        return str(int(field.default))
    if field.type == "number":
        return repr(float(field.default))
    if field.type == "decimal":
        return f"Decimal({python_text(field.default)})"
    moments = {"today": "datetime.date.today", "now": "django.utils.timezone.now"}
    if field.type in ("date", "datetime", "time"):
        if field.default in moments:
            return moments[field.default]
        return f"datetime.{field.type}.fromisoformat({python_text(field.default)})"
    return python_text(field.default)


def further_imports(data: KitData, records: list[Values], key: str) -> list[str]:
    """Return the import lines that a kit says for texts that stand in the code of fields."""
    known = django(data).imports
    return sorted({line for text, line in known.items() if uses(records, key, text)})


def model_imports(data: KitData, records: list[Values]) -> list[str]:
    """Return the first lines of ``models.py``."""
    found = ["import datetime"] if uses(records, "model", "datetime.") else []
    found += ["from decimal import Decimal"] if uses(records, "model", "Decimal(") else []
    found += [""] if found else []
    found += ["import django.utils.timezone"] if uses(records, "model", "django.utils.timezone") else []
    found += ["from django.conf import settings"] if uses(records, "model", "settings.AUTH_USER") else []
    found += ["from django.db import models"]
    found += ["from django.urls import reverse"] if any(record.get("absolute_url") for record in records) else []
    found += ["from django.utils.translation import gettext_lazy as _"]
    return [*found, *further_imports(data, records, "model")]


def sample_imports(records: list[Values]) -> list[str]:
    """Return the first lines of ``tests/samples.py``."""
    kinds = {field["kind"] for record in records for field in record["fields"]}
    with_others = uses(records, "sample", "a_record(")
    found = ["import datetime"] if uses(records, "sample", "datetime.") or with_others else []
    found += ["import uuid"] if "uuid" in kinds or with_others else []
    found += ["from decimal import Decimal"] if "decimal" in kinds or with_others else []
    found = ["", *found] if found else []
    with_user = uses(records, "sample", "a_user(")
    outer = ["from django.apps import apps"] if with_others else []
    outer += ["from django.contrib.auth import get_user_model"] if with_user else []
    outer += ["from django.utils import timezone"] if uses(records, "sample", "timezone.now") or with_others else []
    found += ["", *outer] if outer else []
    found += ["", "from .. import models"]
    if with_user:
        found += [
            "",
            "",
            "def a_user():",
            "    user_model = get_user_model()",
            '    return user_model.objects.get_or_create(**{user_model.USERNAME_FIELD: "sample"})[0]',
        ]
    return found


def preferences_values(data: KitData, brief: Brief) -> Values:
    """Return the values of the one-row record that keeps the module's settings."""
    fields: list[dict[str, Any]] = [field_values(data, brief, "setting", setting.field) for setting in brief.settings]
    return {
        "preferences_title": f"settings of {brief.name.title}",
        "preferences": fields,
        "preference_names": [{"preference": field["name"]} for field in fields],
    }
