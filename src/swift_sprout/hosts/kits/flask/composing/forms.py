"""Forms that keep mapped records: Flask-WTF's, with WTForms' fields and validators (WTForms 3)."""

from __future__ import annotations

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.fields import Field
from .....core.parts.records import Record
from ....contract.kitdata import KitData
from ....shared.rendering import python_text
from ..facts import flask
from .mapped import (
    MapperNames,
    Values,
    default_of,
    labels_name,
    made_sample,
    mapped_type,
    mapped_values,
    sizes,
    target_of,
)


def form_imports(mapper: MapperNames, forms: dict[str, Values]) -> list[str]:
    """Return the lines of imports of the file of forms."""
    fields = sorted({name for one in forms.values() for name in one["imported"]})
    validators = {name for one in forms.values() for name in one["validators"]}
    uniques = any(one["uniques"] for one in forms.values())
    validators |= {"ValidationError"} if uniques else set()
    standard = [f"{line}" for one in forms.values() for line in one["standard"]]
    found = [*dict.fromkeys(standard), *([""] if standard else []), "from flask_wtf import FlaskForm"]
    found += [f"from wtforms import {', '.join(fields)}"] if fields else []
    found += [f"from wtforms.validators import {', '.join(sorted(validators))}"] if validators else []
    if uniques or any(one["has_relations"] for one in forms.values()):
        found += ["", f"from {mapper.module} import {mapper.name}"]
    models = {name for name, one in forms.items() if one["uniques"]} | {
        relation["target"] for one in forms.values() for relation in one["relations"]
    }
    models |= {name for one in forms.values() for name in one["labels_used"]}
    return [*found, "", f"from .models import {', '.join(sorted(models))}"] if models else found


def form_values(data: KitData, brief: Brief, record: Record, mapper: MapperNames) -> Values:
    """Return what the template of forms takes of a record; raises WrongUse for a field that no form has."""
    fields, relations = [], []
    for field in record.fields:
        if field.type == "one":
            target = target_of(data, brief, record, field)
            coerce = "lambda value: int(value) if value else None" if field.optional else "int"
            words = [python_text(field.label), f"coerce={coerce}"]
            fields.append({"name": f"{field.name}_id", "form_field": f"SelectField({', '.join(words)})"})
            query = mapped_values(data, brief, target, mapper)["query"]
            each = f"(one.id, str(one)) for one in {mapper.name}.session.scalars(query)"
            chosen = f'[("", ""), *({each})]' if field.optional else f"[{each}]"
            relations.append(
                {"name": f"{field.name}_id", "chosen_from": query, "chosen": chosen, "target": target.name.camel}
            )
            continue
        kind = mapped_type(data, record, field).form
        if not kind:
            raise WrongUse(
                "field-not-carried",
                f"{record.name.title}.{field.name}: forms of Flask modules have no field of type {field.type}.",
                "Leave the field optional and out of the form by hand, or show the record without one.",
            )
        fields.append({"name": field.name, "form_field": f"{kind}({', '.join(_form_words(record, field))})"})
    sample = {field.name: flask(data).fields[field.type].example for field in record.fields if field.type != "one"}
    first = {field.name: python_text(field.choices[0].value) for field in record.fields if field.choices}
    posted = [f"{python_text(name)}: {first.get(name, value)}" for name, value in sample.items()]
    needed = [field for field in record.fields if field.type == "one" and not field.optional]
    return {
        "form_fields": fields,
        "labels_used": [labels_name(record, one) for one in record.fields if one.choices],
        "relations": relations,
        "has_relations": bool(relations),
        "uniques": [
            {"name": one.name, "taken": python_text(f"This {one.label.lower()} is taken already.")}
            for one in record.fields
            if one.unique and one.type != "one"
        ],
        "posted": "{" + ", ".join([*posted, *(f"{python_text(one.name + '_id')}: 1" for one in needed)]) + "}",
        "ahead": [{"made": made_sample(data, brief, target_of(data, brief, record, one))} for one in needed],
        "imported": {mapped_type(data, record, one).form for one in record.fields if one.type != "one"}
        | ({"SelectField"} if relations else set()),
        "validators": {word.partition("(")[0] for one in record.fields for word in _validators(one)},
        "standard": ["import datetime as dt"] if any(one.default in ("today", "now") for one in record.fields) else [],
    }


def _validators(field: Field) -> list[str]:
    if field.type == "yes/no":
        return []
    texts = field.type in ("text", "long text", "email", "link", "slug")
    found = ["Optional()"] if field.optional else ["DataRequired()"] if texts else ["InputRequired()"]
    longest = {"email": 254, "link": 500}.get(field.type, sizes(field)["length"])
    found += [f"Length(max={longest})"] if texts and field.type != "long text" else []
    return found


def _form_words(record: Record, field: Field) -> list[str]:
    words = [python_text(field.label)]
    if field.choices:
        words.append(f"choices=list({labels_name(record, field)}.items())")
    validators = _validators(field)
    words += [f"validators=[{', '.join(validators)}]"] if validators else []
    if field.optional and field.type in ("text", "long text", "email", "link", "slug"):
        words.append("filters=[lambda value: value or None]")
    default = default_of(field)
    words += [f"default={default}"] if default not in ("", "False") and field.type != "decimal" else []
    words += [f"description={python_text(field.help)}"] if field.help else []
    return words
