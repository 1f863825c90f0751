"""From a brief to the files of a Django module: values for the templates, and the change set they make."""

from __future__ import annotations

import json
from typing import Any

from ...core.brief import BRIEF_FILE, Brief, Page, Record
from ...core.changes import ChangeSet
from ...core.errors import Refused, WrongUse
from ...core.fields import Field
from ...core.hostfacts import Place
from ..kitdata import KitData
from ..rendering import Templates, html_attribute, python_text, tidy_python
from .naming import check_inner_names
from .reading.templates import site_layout
from .view import HostView

_RELATION = {"one": "ForeignKey", "many": "ManyToManyField"}
_GUARDS = {
    "anyone": ("", "", []),
    "signed in": ("LoginRequiredMixin, ", "LoginRequiredMixin", []),
    "staff": (
        "UserPassesTestMixin, ",
        "UserPassesTestMixin",
        ["", "    def test_func(self):", "        return self.request.user.is_staff"],
    ),
}
_VERBS = {"read": "view", "create": "add", "change": "change", "delete": "delete"}


def compose(view: HostView, data: KitData, brief: Brief, place: Place) -> ChangeSet:
    """Return the change set that makes a module; raises Refused when something stands in its place already."""
    check_inner_names(data, brief)
    label = brief.name.snake
    folder = label if place.folder == "." else f"{place.folder}/{label}"
    target = view.root / folder
    if target.exists() and any(target.iterdir()):
        raise Refused(
            "folder-taken",
            f"{folder} is there already and not empty; nothing was changed.",
            "Choose another name, or move the folder away.",
        )
    _refuse_taken_addresses(view, brief)
    values = _values(view, data, brief, place)
    templates = Templates(data.folder / "templates", {"py": python_text, "html": html_attribute})
    changes = ChangeSet(f"new {label}")
    changes.add(f"{folder}/{BRIEF_FILE}", None, _brief_text(brief).encode("utf-8"))
    for entry in data.raw["file"]:
        if "when" in entry and not values[entry["when"]]:
            continue
        for part in values[entry["each"]] if "each" in entry else [{}]:
            name = entry["writes"].format(label=label, **part)
            text = templates.fill(entry["template"], values, part)
            tidied = tidy_python(text) if name.endswith(".py") else text
            changes.add(f"{folder}/{name}", None, tidied.encode("utf-8"))
    return changes


def _refuse_taken_addresses(view: HostView, brief: Brief) -> None:
    if not view.root_urls or not brief.pages:
        return
    taken = {one.path.rstrip("/"): one for one in view.addresses.walk(view.root_urls)}
    for page in brief.pages:
        other = taken.get(page.path.rstrip("/"))
        if other is not None:
            place = f"{view.relative(other.route.file)}:{other.route.line}"
            raise Refused(
                "address-taken",
                f"{page.path} is answered already by {other.view or 'another controller'} ({place}).",
                "Give the page another path.",
            )


def _brief_text(brief: Brief) -> str:
    """Spell a brief as TOML, one table after the other, in the order in which people say it."""
    import tomli_w

    data = brief.as_data()
    pieces = ["# What this module is. Read by swift-sprout; edit it freely.", f'format = "{data.pop("format")}"']
    for kind, held in data.items():
        head = f"[{kind}]" if isinstance(held, dict) else f"[[{kind}]]"
        for table in [held] if isinstance(held, dict) else held:
            pieces.append(f"\n{head}\n{tomli_w.dumps(table).rstrip()}")
    return "\n".join(pieces) + "\n"


def _values(view: HostView, data: KitData, brief: Brief, place: Place) -> dict[str, Any]:
    label = brief.name.snake
    dotted = f"{place.prefix}.{label}" if place.prefix else label
    records = [_record(data, brief, record) for record in brief.records]
    by_name = {record["record"]: record for record in records}
    pages = [_page(brief, page, by_name, label) for page in _unique_views(brief.pages)]
    layout, block = site_layout(view)
    kinds = {field["kind"] for record in records for field in record["fields"]}
    return {
        "title": brief.name.title,
        "label": label,
        "dotted": dotted,
        "camel": brief.name.camel,
        "version": brief.version,
        "author": brief.author,
        "licence": brief.licence,
        "docstring": f"{brief.name.title}: {brief.summary}" if brief.summary else brief.name.title,
        "records": records,
        "pages": pages,
        "plain_pages": [page for page in pages if not page["shows"]],
        "record_pages": [page for page in pages if page["shows"]],
        "site_layout": layout,
        "site_block": block,
        "model_imports": _lines(_model_imports(records)),
        "view_imports": _lines(_view_imports(pages)),
        "sample_imports": _lines(_sample_imports(records, kinds)),
        "test_imports": _lines(_test_imports(records, pages)),
        **_migration(records),
    }


def _lines(texts: list[str]) -> list[dict[str, str]]:
    return [{"line": text} for text in texts]


# -- records -----------------------------------------------------------------------------------------------------


def _record(data: KitData, brief: Brief, record: Record) -> dict[str, Any]:
    fields = [_field(data, brief, record, field) for field in record.fields]
    shown = [field for field in fields if field["kind"] not in ("many", "long text", "json", "file")] or fields[:1]
    texts = [one for one in record.fields if one.type in ("text", "choice", "email", "slug", "link")]
    display = texts[0] if texts else record.fields[0]
    spelled = f"self.get_{display.name}_display()" if display.type == "choice" else f"self.{display.name}"
    certain = display.type in ("text", "choice", "email", "slug", "link") and not (display.optional and display.unique)
    for number, field in enumerate(shown):
        field["first"] = number == 0
    filters = tuple(field["name"] for field in fields if field["kind"] in ("choice", "yes/no", "one"))
    searches = tuple(one.name for one in record.fields if one.type in ("text", "long text", "slug", "email"))
    return {
        "record": record.name.camel,
        "snake": record.name.snake,
        "record_title": record.name.title,
        "plural_title": record.plural.title,
        "summary": record.summary,
        "ordering": python_text(list(record.order_by) or [_default_order(record)]),
        "fields": fields,
        "columns": python_text(tuple(field["name"] for field in shown[:6])),
        "columns_shown": shown[:6],
        "column_count": str(len(shown[:6])),
        "filters": python_text(filters) if filters else "",
        "searches": python_text(searches) if searches else "",
        "display": spelled if certain else f"str({spelled})",
    }


def _default_order(record: Record) -> str:
    orderable = [one.name for one in record.fields if one.type not in ("many", "json", "file", "long text")]
    return orderable[0] if orderable else "id"


def _field(data: KitData, brief: Brief, record: Record, field: Field) -> dict[str, Any]:
    if field.is_relation:
        return _relation(brief, field)
    known = data.raw["fields"].get(field.type)
    if known is None:
        raise WrongUse(
            "field-not-carried",
            f"{record.name.title}.{field.name}: {data.title} modules carry no field of type {field.type}.",
            f"Known here: {', '.join(data.raw['fields'])}.",
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
    model = [text.format(**sizes, choices=_choices(field, "_({})")) for text in known.get("arguments", [])]
    migration = [text.format(**sizes, choices=_choices(field, "{}")) for text in known.get("arguments", [])]
    shared: list[str] = []
    if field.optional:
        null = known["optional"] == "null" or field.unique
        shared += ["null=True", "blank=True"] if null else ["blank=True"]
    if field.unique:
        shared.append("unique=True")
    if field.default is not None or (field.type == "yes/no" and not field.optional):
        shared.append(f"default={_default(field)}")
    return {
        "name": field.name,
        "field_label": field.label,
        "kind": field.type,
        "shown": f"get_{field.name}_display" if field.type == "choice" else field.name,
        "model": _call(known["class"], [f"_({python_text(field.label)})", *model, *shared, *_help(field, "_({})")]),
        "migration": _call(
            known["class"], [*migration, *shared, f"verbose_name={python_text(field.label)}", *_help(field, "{}")]
        ),
        "sample": known["example"].format(**sizes),
        "target": "",
        "foreign": "",
    }


def _relation(brief: Brief, field: Field) -> dict[str, Any]:
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
    label = [f"verbose_name=_({python_text(field.label)})"]
    return {
        "name": field.name,
        "field_label": field.label,
        "kind": field.type,
        "shown": f'{field.name}.all|join:", "' if field.type == "many" else field.name,
        "model": _call(kind, [model_target, *model_policy, *shared, *label, *_help(field, "_({})")]),
        "migration": _call(
            kind,
            [
                *migration_policy,
                *shared,
                f"to={migration_target}",
                f"verbose_name={python_text(field.label)}",
                *_help(field, "{}"),
            ],
        ),
        "sample": "" if field.optional or field.type == "many" else _related_sample(brief, field, own),
        "target": own.name.camel if own else "",
        "foreign": "" if own else ("user" if field.target == "user" else field.target.partition(".")[0]),
    }


def _related_sample(brief: Brief, field: Field, own: Record | None) -> str:
    if own is not None:
        return f"values.get({python_text(field.name)}) or {own.name.snake}()"
    if field.target == "user":
        return "a_user()"
    return ""


def _call(function: str, arguments: list[str]) -> str:
    return f"{function}({', '.join(arguments)})"


def _help(field: Field, wrapper: str) -> list[str]:
    return [f"help_text={wrapper.format(python_text(field.help))}"] if field.help else []


def _choices(field: Field, wrapper: str) -> str:
    pairs = [f"({python_text(one.value)}, {wrapper.format(python_text(one.label))})" for one in field.choices]
    return f"[{', '.join(pairs)}]"


def _default(field: Field) -> str:
    if field.type == "yes/no":
        return str((field.default or "no").lower() in ("yes", "true"))
    assert field.default is not None
    if field.type == "integer":
        return str(int(field.default))
    if field.type == "number":
        return repr(float(field.default))
    if field.type == "decimal":
        return f"Decimal({json.dumps(field.default)})"
    moments = {"today": "datetime.date.today", "now": "timezone.now"}
    if field.type in ("date", "datetime", "time"):
        if field.default in moments:
            return "django.utils.timezone.now" if field.default == "now" else moments[field.default]
        return f"datetime.{field.type}.fromisoformat({python_text(field.default)})"
    return python_text(field.default)


def _uses(records: list[dict[str, Any]], key: str, text: str) -> bool:
    return any(text in field[key] for record in records for field in record["fields"])


def _model_imports(records: list[dict[str, Any]]) -> list[str]:
    lines = ["import datetime"] if _uses(records, "model", "datetime.") else []
    lines += ["from decimal import Decimal"] if _uses(records, "model", "Decimal(") else []
    lines += [""] if lines else []
    lines += ["import django.utils.timezone"] if _uses(records, "model", "django.utils.timezone") else []
    lines += ["from django.conf import settings"] if _uses(records, "model", "settings.AUTH_USER") else []
    return [*lines, "from django.db import models", "from django.utils.translation import gettext_lazy as _"]


def _migration(records: list[dict[str, Any]]) -> dict[str, Any]:
    """Order the records so that a target is made before it is pointed at; what cannot be ordered becomes late."""
    made: list[str] = []
    ordered: list[dict[str, Any]] = []
    late: list[dict[str, Any]] = []
    waiting = list(records)
    while waiting:
        ready = next(
            (
                record
                for record in waiting
                if all(field["target"] in ("", record["record"], *made) for field in record["fields"])
            ),
            None,
        )
        record = ready or waiting[0]
        early = [field for field in record["fields"] if ready or field["target"] in ("", record["record"], *made)]
        late += [{**field, "on_record": record["record"].lower()} for field in record["fields"] if field not in early]
        ordered.append({**record, "fields": early})
        made.append(record["record"])
        waiting.remove(record)
    foreign = {field["foreign"] for record in records for field in record["fields"]} - {""}
    dependencies = [
        "migrations.swappable_dependency(settings.AUTH_USER_MODEL)"
        if name == "user"
        else f'({python_text(name)}, "__first__")'
        for name in sorted(foreign)
    ]
    plain = ["import datetime"] if _uses(records, "migration", "datetime.") else []
    plain += ["from decimal import Decimal"] if _uses(records, "migration", "Decimal(") else []
    imports = [*plain, ""] if plain else []
    imports += ["import django.db.models.deletion"] if _uses(records, "migration", "models.deletion") else []
    imports += ["import django.utils.timezone"] if _uses(records, "migration", "utils.timezone") else []
    imports += ["from django.conf import settings"] if "user" in foreign else []
    imports.append("from django.db import migrations, models")
    return {
        "creations": ordered,
        "late_fields": late,
        "dependencies": _lines(dependencies),
        "migration_imports": _lines(imports),
    }


# -- pages -------------------------------------------------------------------------------------------------------


def _unique_views(pages: tuple[Page, ...]) -> list[tuple[Page, str, str]]:
    """Give every page a class name and a file stem of its own."""
    taken: set[str] = set()
    result = []
    for page in pages:
        words = page.words
        stem = "_".join(words)
        number = 2
        while stem in taken:
            stem = f"{'_'.join(words)}_{number}"
            number += 1
        taken.add(stem)
        result.append((page, "".join(part.capitalize() for part in stem.split("_")), stem))
    return result


def _page(brief: Brief, named: tuple[Page, str, str], records: dict[str, dict[str, Any]], label: str) -> dict[str, Any]:
    page, view, stem = named
    shown = brief.record(page.shows) if page.shows else None
    permission = ""
    if page.access.startswith("may "):
        _, verb, name = page.access.split(" ", 2)
        record = brief.record(name)
        assert record is not None
        permission = f"{_VERBS[verb]}_{record.name.camel.lower()}"
        guard, mixin = "PermissionRequiredMixin, ", "PermissionRequiredMixin"
        lines = [f"    permission_required = {python_text(f'{label}.{permission}')}"]
    else:
        guard, mixin, lines = _GUARDS[page.access]
    if view[0].isdigit():
        view = f"Page{view}"
    route = page.path.strip("/")
    name = stem.replace("_", "-")
    template, detail = (f"{stem}_list.html", f"{stem}_detail.html") if shown else (f"{stem}.html", "")
    return {
        "heading": page.title,
        "text": f"_({python_text(page.text)})" if page.text else '""',
        "route": f"{route}/" if route else "",
        "detail_route": f"{route}/<int:pk>/" if route else "<int:pk>/",
        "view": view,
        "page_name": name,
        "detail_name": f"{name}-detail",
        "reverse": f"{label}:{name}",
        "detail_reverse": f"{label}:{name}-detail",
        "template": template,
        "detail_template": detail,
        "template_name": f"{label}/{template}",
        "detail_template_name": f"{label}/{detail}",
        "shows": bool(shown),
        **(records[shown.name.camel] if shown else {}),
        "guard": guard,
        "mixin": mixin,
        "guard_lines": _lines(lines),
        "permission": permission,
        "needs_user": page.access != "anyone",
        "user_flags": ', "is_staff": True' if page.access == "staff" else "",
    }


def _view_imports(pages: list[dict[str, Any]]) -> list[str]:
    mixins = sorted({page["mixin"] for page in pages} - {""})
    generic: set[str] = set()
    for page in pages:
        generic |= {"DetailView", "ListView"} if page["shows"] else {"TemplateView"}
    lines = [f"from django.contrib.auth.mixins import {', '.join(mixins)}"] if mixins else []
    lines.append("from django.utils.translation import gettext_lazy as _")
    lines.append(f"from django.views.generic import {', '.join(sorted(generic))}")
    return [*lines, "", "from . import models"] if any(page["shows"] for page in pages) else lines


def _sample_imports(records: list[dict[str, Any]], kinds: set[str]) -> list[str]:
    lines = ["import datetime"] if _uses(records, "sample", "datetime.") else []
    lines += ["import uuid"] if "uuid" in kinds else []
    lines += ["from decimal import Decimal"] if "decimal" in kinds else []
    lines = ["", *lines] if lines else []
    outer = ["from django.contrib.auth import get_user_model"] if _uses(records, "sample", "a_user(") else []
    outer += ["from django.utils import timezone"] if _uses(records, "sample", "timezone.now") else []
    lines += ["", *outer] if outer else []
    lines += ["", "from .. import models"]
    if _uses(records, "sample", "a_user("):
        lines += [
            "",
            "",
            "def a_user():",
            "    user_model = get_user_model()",
            '    return user_model.objects.get_or_create(**{user_model.USERNAME_FIELD: "sample"})[0]',
        ]
    return lines


def _test_imports(records: list[dict[str, Any]], pages: list[dict[str, Any]]) -> list[str]:
    lines = ["from django.apps import apps"]
    if any(page["needs_user"] for page in pages):
        lines.append("from django.contrib.auth import get_user_model")
    if any(page["permission"] for page in pages):
        lines.append("from django.contrib.auth.models import Permission")
    lines.append("from django.test import TestCase")
    if pages:
        lines.append("from django.urls import reverse")
    if records:
        lines += ["", "from .. import models", "from . import samples"]
    return lines
