"""Records: their classes, and what a field becomes."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.fields import Field
from .....core.names import name_family
from .....core.parts.records import Record
from ....contract.kitdata import KitData
from ....shared.rendering import php_text
from ..facts import wordpress
from .shared import Values, capability, comment_text, lines, namespace_of

_WIDE = ("many", "long text", "file", "json")


def record_values(data: KitData, brief: Brief, record: Record) -> Values:
    """Return the values that templates take of a record."""
    fields = [field_values(data, brief, record.name.title, field) for field in record.fields]
    columns = [field.name for field in record.fields if field.type not in _WIDE][:6] or [record.fields[0].name]
    return {
        "record": record.name.camel,
        "snake": record.name.snake,
        "record_title": record.name.title,
        "plural_title": record.plural.title,
        "record_comment": comment_text(record.summary or f"{record.name.title}."),
        "record_title_comment": comment_text(record.name.title),
        "title_field": record.title_field.name,
        "ordering": _ordering(record),
        "fields": fields,
        "column_names": php_text(columns),
        "read_capability": capability(brief, record, "read"),
        "record_name_code": f"Records\\{record.name.camel}::plural()",
        "screen_slug_code": php_text(screen_slug(brief, record)),
        "sampled": [
            {"name": field.name, "sample": sample} for field in record.fields if (sample := _sample(data, brief, field))
        ],
        "can_be_sampled": all(_sample(data, brief, one) for one in record.fields if not _may_be_left_out(one)),
    }


def screen_slug(brief: Brief, record: Record) -> str:
    """Return the host's name of a record's screen; that of the first opens with the module's own entry."""
    label = brief.name.kebab
    return label if record is brief.records[0] else f"{label}-{record.name.kebab}"


def field_values(data: KitData, brief: Brief, owner: str, field: Field) -> Values:
    """Return the values that templates take of a field; ``owner`` is what it belongs to, for messages."""
    if not field.is_relation and field.type not in wordpress(data).fields:
        raise WrongUse(
            "field-not-carried",
            f"{owner}.{field.name}: {data.title} modules carry no field of type {field.type}.",
            f"The nearest is long text. Known here: {', '.join(wordpress(data).fields)}.",
        )
    further: list[tuple[str, str]] = []
    if field.length and field.type == "text":
        further.append(("length", php_text(field.length)))
    if field.type == "decimal":
        further += [("digits", php_text(field.digits)), ("places", php_text(field.places))]
    if field.is_relation:
        further.append(("target", target_code(brief, field)))
    if field.optional:
        further.append(("optional", "true"))
    if field.unique:
        further.append(("unique", "true"))
    if field.default is not None:
        further.append(("default", _default(field)))
    domain = php_text(brief.name.kebab)
    if field.help:
        further.append(("help", f"__( {php_text(field.help)}, {domain} )"))
    spelled = [f"'{key}' => {code}," for key, code in further]
    if field.choices:
        spelled += ["'choices' => ["]
        spelled += [f"\t{php_text(one.value)} => __( {php_text(one.label)}, {domain} )," for one in field.choices]
        spelled += ["],"]
    return {"name": field.name, "kind": field.type, "field_label": field.label, "further": lines(spelled)}


def target_code(brief: Brief, field: Field) -> str:
    """Spell the class of the record that a relation points at; users are the host's own."""
    if field.target == "user":
        return "'user'"
    own = brief.record(field.target) if "." not in field.target else None
    if own is not None:
        return f"\\{namespace_of(brief)}\\Records\\{own.name.camel}::class"
    module, _, name = field.target.partition(".")
    other = brief._replace(name=name_family(module, owner=" ".join(brief.name.owner)))
    return f"\\{namespace_of(other)}\\Records\\{name_family(name, what='record').camel}::class"


def _ordering(record: Record) -> str:
    said = [f"`{key.lstrip('-')}`" + (" DESC" if key.startswith("-") else "") for key in record.order_by]
    orderable = [field.name for field in record.fields if field.type not in _WIDE]
    found = said or [f"`{name}`" for name in orderable[:1]]
    return ", ".join([*found, "id"])


def _default(field: Field) -> str:
    assert field.default is not None
    if field.type == "yes/no":
        return php_text(field.default.lower() in ("yes", "true"))
    if field.type == "integer":
        return str(int(field.default))
    if field.type == "number":
        return repr(float(field.default))
    return php_text(field.default)


def _may_be_left_out(field: Field) -> bool:
    return field.optional or field.default is not None or field.type in ("yes/no", "many")


def _sample(data: KitData, brief: Brief, field: Field) -> str:
    """Spell a value of a field for the module's tests; empty for none."""
    if _may_be_left_out(field):
        return ""
    if field.is_relation:
        own = brief.record(field.target) if "." not in field.target and field.target != "user" else None
        if field.target == "user":
            made = "self::administrator()"
        elif own is None:
            return ""
        else:
            made = f"self::{own.name.snake}()"
        return made
    sizes = {
        "text": php_text("Sample"[: field.length or 6]),
        "first": php_text(field.choices[0].value) if field.choices else "",
    }
    return wordpress(data).fields[field.type].example.format(**sizes)
