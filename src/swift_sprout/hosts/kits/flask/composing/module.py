"""From a brief to the values that the templates of a Flask module take."""

from __future__ import annotations

import re
from html import escape
from keyword import iskeyword
from typing import Any

from .....core.brief import Brief
from .....core.errors import WrongUse
from .....core.fields import Field
from .....core.parts.pages import Page
from .....core.parts.records import Record
from ....contract.kitdata import KitData
from ....shared.rendering import python_docstring, python_text
from ..facts import flask
from .mapped import SHOWN, MapperNames, in_order, labels_name, mapped_values, not_carried, pairs_of, table_of
from .mapped_module import mapped_module

Values = dict[str, Any]
_CONVERTERS = {"text": "", "slug": "", "integer": "int:", "uuid": "uuid:"}


def values_of(data: KitData, brief: Brief, site_layout: str, mapper: MapperNames | None = None) -> Values:
    """Return all values; raises WrongUse for what a Flask module cannot carry.

    mapper -- the site's object mapper; without one, records are rows of a SQLite database
    """
    label = brief.name.snake
    mapper = mapper if brief.records else None
    ordered = in_order(brief) if mapper is not None else brief.records
    records = {record.name.camel: record_values(data, brief, record, mapper) for record in ordered}
    pages = [_page(brief, page, records, mapper) for page in brief.pages]
    endpoints = []
    for endpoint in brief.endpoints:
        _refuse(endpoint.access, f"the endpoint {endpoint.path}")
        if set(endpoint.methods) != {"get"}:
            raise WrongUse(
                "method-not-carried",
                f"The endpoint {endpoint.path} writes, but Flask has no users who could be allowed to.",
                "Leave methods out, or write the view by hand.",
            )
        shown = brief.record(endpoint.shows)
        assert shown is not None
        rule = rule_of(endpoint.path)
        one = f"{rule}/<int:number>"
        view = "_".join(endpoint.words)
        endpoints.append({"view": view, "rule": rule, "one_rule": one, **records[shown.name.camel]})
    commands = [_command(brief, command, records) for command in brief.commands]
    has_commands = bool(commands or (records and (mapper is None or not mapper.revisions)))
    own = {"commands": has_commands, "models": records and mapper, "records": records and not mapper}
    named = [name for name, there in {**own, "views": pages or endpoints}.items() if there]
    imports = [f"from . import {', '.join(named)}  # noqa: E402, F401"] if named else []
    if own["records"]:
        imports += ["", "blueprint.teardown_app_request(records.close)"]
    has_views = bool(pages or endpoints)
    assets = [{"asset": one.file, "sort": one.sort} for one in brief.assets]
    return {
        "label": label,
        "label_text": label,
        "docstring": python_docstring(f"{brief.name.title}: {brief.summary}" if brief.summary else brief.name.title),
        "static_path": f"/{label}/static",
        "has_assets": bool(assets),
        "style_sheets": [one for one in assets if one["sort"] == "css"],
        "scripts": [one for one in assets if one["sort"] == "js"],
        "pictures": [one for one in assets if one["sort"] == "svg"],
        "imports": _lines(imports),
        "has_imports": bool(imports),
        "has_commands": has_commands,
        "uses_click": bool(commands),
        "commands": commands,
        "with_rows": mapper is None,
        "row_views": mapper is None and has_views,
        "row_commands": mapper is None and has_commands,
        "row_records": mapper is None and bool(records),
        "mapped": mapper is not None,
        "mapped_views": mapper is not None and has_views,
        "mapped_commands": mapper is not None and has_commands,
        "records": list(records.values()),
        "has_records": bool(records),
        "has_labels": any(one["chooses"] for one in records.values()),
        "tables": python_text({}) if not records else _tables(records),
        "connection": f"{label}_connection",
        "connection_name": f"{label}_connection",
        "has_endpoint": bool(endpoints),
        "has_pages": bool(pages),
        "plain_pages": [page for page in pages if page["is_plain"]],
        "list_pages": [page for page in pages if page["has_list"]],
        "one_pages": [page for page in pages if page["has_one"]],
        "endpoints": endpoints,
        "site_layout": site_layout,
        "layout_name": f"{label}/layout.html",
        "tested_rows": [
            {**page, "called": page["rules"][0]["rule"]}
            for page in pages
            if page["has_list"] and page["shown_sample"] and "<" not in page["rules"][0]["rule"]
        ],
        "tested": [
            {
                "view": page["list_view"] if page["has_list"] else page["view"],
                "called": page["rules"][0]["rule"],
                "heading_text": _in_html(page["heading"]),
            }
            for page in pages
            if (page["is_plain"] or page["has_list"]) and "<" not in page["rules"][0]["rule"]
        ],
        **(
            mapped_module(data, brief, mapper, records, pages, endpoints, commands)
            if mapper is not None
            else {"view_imports": _lines(_imports(pages, endpoints)), "has_forms": False, "form_pages": []}
        ),
    }


def _in_html(text: str) -> str:
    """Return a text as a template writes it into a page (MarkupSafe 3)."""
    return escape(text).replace("&quot;", "&#34;").replace("&#x27;", "&#39;")


def _lines(texts: list[str]) -> list[Values]:
    return [{"line": text} for text in texts]


def _tables(records: dict[str, Values]) -> str:
    return (
        "{" + ", ".join(f"{python_text(one['table'])}: {python_text(one['order'])}" for one in records.values()) + "}"
    )


def _refuse(access: str, who: str) -> None:
    if access != "anyone":
        raise WrongUse(
            "access-not-carried",
            f"{who[0].upper()}{who[1:]} is for {access!r}, but Flask has no users of its own.",
            'Say access = "anyone", and guard the blueprint in before_request.',
        )


def rule_of(path: str) -> str:
    """Return an address as the host's router spells it."""

    def spelled(found: re.Match[str]) -> str:
        return f"<{_CONVERTERS[found.group(2) or 'text']}{found.group(1)}>"

    return re.sub(r"\{([a-z][a-z0-9_]*)(?:: ?([a-z]+))?\}", spelled, path)


def record_values(data: KitData, brief: Brief, record: Record, mapper: MapperNames | None) -> Values:
    """Return the values of a record; raises WrongUse for a field that it cannot carry."""
    table = table_of(brief, record)
    columns = [_column(data, brief, record, field) for field in record.fields]
    order = [f'"{key.lstrip("-")}"' + (" desc" if key.startswith("-") else "") for key in record.order_by] or ["id"]
    title = record.title_field.name
    shown = [
        {
            "name": one.name,
            "field_label": escape(one.label).replace("{", "&#123;"),
            "leads": one.name == title,
            "value": _shown(one, mapper),
        }
        for one in record.fields
    ]
    sample = {
        field.name: flask(data)
        .fields[field.type]
        .example.format(first_choice=python_text(field.choices[0].value) if field.choices else "")
        for field in record.fields
        if field.type in flask(data).fields
    }
    needed = [field for field in record.fields if field.type == "one" and not field.optional]
    return {
        "record": record.name.camel,
        "snake": record.name.snake,
        "table": table,
        "order": ", ".join(order),
        "columns": [{"column": column} for column in columns],
        "fields": shown,
        "shown": shown[:SHOWN],
        "shown_sample": _shown_sample(record),
        "column_count": str(min(len(shown), SHOWN)),
        "chooses": mapper is None and any(field.choices for field in record.fields),
        "labels": [
            {
                "field": python_text(field.name),
                "labels_name": labels_name(record, field),
                "label_property": f"{field.name}_label",
                "chosen": field.name,
                "pairs": pairs_of(field),
            }
            for field in record.fields
            if field.choices
        ],
        "number": "record.id" if mapper is not None else 'record["id"]',
        "sample": _as_arguments({**sample, **{field.name: "1" for field in needed}}),
        **(mapped_values(data, brief, record, mapper) if mapper is not None else {}),
    }


def _shown_sample(record: Record) -> str:
    """Return what a list shows of the tests' sample of a record; empty where that is not a text."""
    field = record.title_field
    if field not in record.fields[:SHOWN]:
        return ""
    if field.choices:
        return _in_html(field.choices[0].label)
    return "Sample" if field.type in ("text", "long text") else ""


def _as_arguments(values: dict[str, str]) -> str:
    """Spell values as keyword arguments; as a dictionary where a name is a keyword of Python's own."""
    if any(iskeyword(name) for name in values):
        return "**{" + ", ".join(f"{python_text(name)}: {value}" for name, value in values.items()) + "}"
    return ", ".join(f"{name}={value}" for name, value in values.items())


def _shown(field: Field, mapper: MapperNames | None) -> str:
    """Return the expression by which a template shows a field of ``record``."""
    value = f"record.{field.name}" if mapper is not None else f'record["{field.name}"]'
    if field.choices:
        label = f"record.{field.name}_label" if mapper is not None else f'labels["{field.name}"].get({value}, {value})'
        return f'{label} if {value} is not none else ""' if field.optional else label
    if field.type == "yes/no":
        return f'"yes" if {value} else "no"'
    return f'{value} if {value} is not none else ""' if field.optional else value


def _column(data: KitData, brief: Brief, record: Record, field: Field) -> str:
    words = [f'"{field.name}"']
    if field.type == "one" and "." not in field.target and field.target != "user":
        target = brief.record(field.target)
        assert target is not None
        words.append(f'integer references "{brief.name.snake}_{target.name.snake}" (id)')
    elif field.type in flask(data).fields:
        words.append(flask(data).fields[field.type].column)
    else:
        raise not_carried(data, record, field)
    if not field.optional:
        words.append("not null")
    if field.unique:
        words.append("unique")
    if field.type == "yes/no":
        words.append(f"default {int((field.default or 'no') in ('yes', 'true'))}")
    elif field.default is not None and field.default not in ("today", "now"):
        words.append("default '" + field.default.replace("'", "''") + "'")
    elif field.default == "today":
        words.append("default (date())")
    elif field.default == "now":
        words.append("default (datetime())")
    if field.choices:
        values = ", ".join("'" + one.value.replace("'", "''") + "'" for one in field.choices)
        words.append(f'check ("{field.name}" in ({values}))')
    return " ".join(words)


def _page(brief: Brief, page: Page, records: dict[str, Values], mapper: MapperNames | None) -> Values:
    _refuse(page.access, f"the page {page.path}")
    if page.view == "form" and page.shows and (mapper is None or not mapper.forms):
        raise WrongUse(
            "view-not-carried",
            f"The page {page.path} is a form, which a Flask site has with Flask-WTF and Flask-SQLAlchemy alone.",
            'The nearest is view = "list and one"; write the form with whatever library the site uses.',
        )
    stem = "_".join(page.words)
    label = brief.name.snake
    record = brief.record(page.shows) if page.shows else None
    rules = [rule_of(path) for path in (page.path, *page.also)]
    key = page.parameters[0].name if page.parameters else "number"
    one_rules = rules if page.parameters else [f"{rule.rstrip('/')}/<int:{key}>" for rule in rules]
    values: Values = {
        "stem": stem,
        "view": stem,
        "list_view": f"{stem}_list",
        "one_view": f"{stem}_one",
        "rules": [{"rule": rule} for rule in rules],
        "one_rules": [{"rule": rule} for rule in one_rules],
        "methods": python_text([method.upper() for method in page.methods]),
        "arguments": ", ".join(one.name for one in page.parameters),
        "posts": "post" in page.methods,
        "heading": page.title,
        "text": python_text(page.text or page.title),
        "template": f"{label}/{stem}.html",
        "list_template": f"{label}/{stem}_list.html",
        "one_template": f"{label}/{stem}_one.html",
        "key": key,
        "is_plain": record is None,
        "has_list": record is not None and page.view in ("list and one", "list"),
        "has_one": record is not None and page.view in ("list and one", "one"),
        "has_form": record is not None and page.view == "form",
        "form_view": f"{stem}_form",
        "form_template": f"{label}/{stem}_form.html",
    }
    if record is not None:
        values |= records[record.name.camel]
        if page.view == "list":
            values["shown"] = [{**one, "leads": False} for one in values["shown"]]
    return values


def _imports(pages: list[Values], endpoints: list[Values]) -> list[str]:
    names = ["abort"] if any(page["has_one"] for page in pages) else []
    names += ["render_template"] if pages else []
    names += ["request"] if any(page["posts"] and page["is_plain"] for page in pages) else []
    found = [f"from flask import {', '.join(names)}", ""] if names else []
    uses = endpoints or any(not page["is_plain"] for page in pages)
    return [*found, "from . import blueprint" + (", records" if uses else "")]


def _command(brief: Brief, command: Any, records: dict[str, Values]) -> Values:
    record = brief.record(command.lists) if command.lists else None
    parameters = [*command.positional, *command.named]
    options = []
    for field in parameters:
        words = [python_text(f"--{field.name.replace('_', '-')}"), python_text(field.name)]
        if field.type == "integer":
            words.append("type=int")
        if field.choices:
            words.append(f"type=click.Choice({python_text([one.value for one in field.choices])})")
        if field.default is not None:
            words.append(f"default={int(field.default) if field.type == 'integer' else python_text(field.default)}")
        elif not field.optional and field.type != "yes/no":
            words.append("required=True")
        if field.help:
            words.append(f"help={python_text(field.help)}")
        options.append({"option": ", ".join(words)})
    filters = [field.name for field in parameters if record is not None and record.field(field.name)]
    return {
        "command": command.name.kebab,
        "function": command.name.snake,
        "title": command.name.title,
        "summary": python_docstring(command.summary or f"{command.name.title}."),
        "options": options,
        "arguments": ", ".join(field.name for field in parameters),
        "lists": record is not None,
        "filters": [{"filter": name, "filter_text": name} for name in filters],
        "has_limit": any(field.name == "limit" for field in parameters),
        "table": records[record.name.camel]["table"] if record is not None else "",
        "shown": record.title_field.name if record is not None else "",
        "called": _called(command),
        **({"query": records[record.name.camel].get("query", "")} if record is not None else {}),
        "record": record.name.camel if record is not None else "",
    }


def _called(command: Any) -> str:
    """Return the words with which the module's tests call a command: its name, and what it needs."""
    words = [command.name.kebab]
    for field in (*command.positional, *command.named):
        if field.default is None and not field.optional and field.type != "yes/no":
            words += [f"--{field.name.replace('_', '-')}", field.choices[0].value if field.choices else "1"]
    return ", ".join(map(python_text, words))
