"""Migrations: the difference between the records of two briefs, as the host's own operations."""

from __future__ import annotations

import ast
import re
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from .....core.brief import Brief
from .....core.errors import WrongUse
from ....contract.kitdata import KitData
from ....shared.rendering import Templates, python_text, tidy_python
from ..facts import django
from ..reading.bringing import FIRST
from .labels import as_labelled
from .records import preferences_values, record_values
from .shared import Values, lines

INITIAL = "0001_initial"
_SORTS = ("rename_model", "create", "add", "rename", "alter", "remove", "change_options", "delete")
_TOLD = {
    "rename_model": "rename_",
    "create": "",
    "add": "",
    "rename": "rename_",
    "alter": "alter_",
    "remove": "remove_",
    "change_options": "options_",
    "delete": "delete_",
}
_OPTIONS = ("verbose_name", "verbose_name_plural", "ordering", "permissions")


class Migration(NamedTuple):
    """A migration to be written: its name without ending, and its text."""

    name: str
    text: str


def tables_of(data: KitData, brief: Brief) -> list[Values]:
    """Return what a module keeps in tables: its records, and the record of its settings."""
    found = [record_values(data, brief, record) for record in brief.records]
    for record in found:
        record["options"] = {
            "verbose_name": python_text(record["record_title"]),
            "verbose_name_plural": python_text(record["verbose_plural"]),
            "ordering": record["ordering"],
        } | ({"permissions": record["permissions"]} if record["permissions"] else {})
    if brief.page_types:
        from .pagetypes import page_type_values

        found += page_type_values(data, brief)
    if brief.settings:
        settings, own = preferences_values(data, brief), django(data).settings
        title = python_text(settings["preferences_title"])
        found.append(
            {
                "record": "Preferences",
                "fields": settings["preferences"],
                "options": {"verbose_name": title, "verbose_name_plural": title},
                "extra": own.extra if own is not None else "",
                "rests_on": own.needs_last_of if own is not None else "",
            }
        )
    return found


#  by the label of an app and the names of models of it: the migration after which they are there
Brings = Callable[[str, set[str]], str]


def _first(label: str, models: set[str]) -> str:
    return FIRST


def initial(templates: Templates, data: KitData, brief: Brief, brings: Brings = _first) -> Migration | None:
    """Return the first migration of a module; None when it keeps nothing in tables."""
    tables = tables_of(data, brief)
    if not tables:
        return None
    values = _values(data, _created(tables, []), [], brings)
    return Migration(INITIAL, _filled(templates, values, True))


def following(
    templates: Templates,
    data: KitData,
    before: Brief,
    after: Brief,
    there: Sequence[str],
    models: bytes,
    changed_models: bytes,
    brings: Brings = _first,
) -> Migration | None:
    """Return the migration that leads from one brief to another; None when none is needed.

    there          -- the names of the migrations that the module has, without endings
    models         -- the source of the models as it stands
    changed_models -- as it will stand; fields that a person spelled otherwise are taken from it

    Raises WrongUse when rows that are there could not be given a value.
    """
    old, new = tables_of(data, before), tables_of(data, after)
    as_labelled(old, models)
    as_labelled(new, changed_models)
    operations = _operations(data, after, old, new)
    if operations and changed_models:
        _as_written(operations, changed_models, after.name.snake)
    if not operations:
        return None
    if not there:
        return Migration(INITIAL, _filled(templates, _values(data, operations, [], brings), True))
    number = max(int(found.group()) for name in there if (found := re.match(r"\d+", name))) + 1 if there else 1
    name = f"{number:04d}_{_told(operations)}"
    dependencies = [f"({python_text(after.name.snake)}, {python_text(leaf)})" for leaf in _leaves(there)]
    return Migration(name, _filled(templates, _values(data, operations, dependencies, brings), False))


def between(
    templates: Templates,
    data: KitData,
    brief: Brief,
    old: list[Values],
    new: list[Values],
    rests_on: tuple[str, str],
    number: int,
) -> Migration | None:
    """Return the migration that leads from some tables to others; None when they are the same.

    rests_on -- label and name of the migration that it follows, number -- its own

    Raises WrongUse when rows that are there could not be given a value.
    """
    operations = _operations(data, brief, old, new)
    if not operations:
        return None
    dependencies = [f"({python_text(rests_on[0])}, {python_text(rests_on[1])})"]
    name = f"{number:04d}_{_told(operations)}"
    return Migration(name, _filled(templates, _values(data, operations, dependencies), False))


def _as_written(operations: list[Values], models: bytes, label: str) -> None:
    """Take fields that are added or altered as the models spell them, where that is not as they are generated."""
    try:
        tree = ast.parse(models)
    except SyntaxError:
        return  # it holds conflict marks, which must be mended before it is ever applied
    for operation in operations:
        field = operation.get("add") or operation.get("alter")
        call = _written_call(tree, field["on_record"], field["name"]) if field else None
        if field is None or call is None or ast.unparse(call) == ast.unparse(ast.parse(field["model"]).body[0]):
            continue
        spelled = _spelled(_with_literal_choices(call, field["migration"]), field["kind"], label)
        if spelled is not None and not field["once"]:
            field["migration"] = spelled


def _with_literal_choices(call: ast.Call, generated: str) -> ast.Call:
    """Return the call of a field with the choices that its migration writes out, where it names a class of them."""
    body = ast.parse(generated, mode="eval").body
    literal = [word for word in body.keywords if word.arg == "choices"] if isinstance(body, ast.Call) else []
    named = [
        word for word in call.keywords if word.arg == "choices" and isinstance(word.value, ast.Attribute | ast.Name)
    ]
    if not literal or not named:
        return call
    return ast.Call(call.func, call.args, [literal[0] if word in named else word for word in call.keywords])


def _written_call(tree: ast.Module, record: str, name: str) -> ast.Call | None:
    for node in tree.body:
        if isinstance(node, ast.ClassDef) and node.name.lower() == record:
            for one in node.body:
                if isinstance(one, ast.Assign) and isinstance(one.value, ast.Call):
                    if isinstance(one.targets[0], ast.Name) and one.targets[0].id == name:
                        return one.value
    return None


def _spelled(call: ast.Call, kind: str, label: str) -> str | None:
    """Spell a field of a model as a migration does: no translation, no relative names; None where that is not sure."""
    relation = kind in ("one", "many")
    words = [("to" if relation else "verbose_name", one) for one in call.args[:1]]
    words += [(word.arg or "", word.value) for word in call.keywords]
    if len(call.args) > 1 or any(not name for name, _ in words):
        return None
    arguments = []
    for name, value in words:
        plain = _Plain().visit(ast.parse(ast.unparse(value), mode="eval").body)
        text = ast.unparse(plain)
        if name == "to" and isinstance(plain, ast.Constant) and "." not in str(plain.value):
            text = python_text(f"{label}.{str(plain.value).lower()}")
        text = re.sub(
            r"^models\.(PROTECT|CASCADE|SET_NULL|SET_DEFAULT|DO_NOTHING|RESTRICT)$",
            r"django.db.models.deletion.\1",
            text,
        )
        roots = {node.id for node in ast.walk(plain) if isinstance(node, ast.Name)}
        if not roots <= {"models", "datetime", "Decimal", "django", "settings", "uuid"}:
            return None
        arguments.append(f"{name}={text}")
    return f"{ast.unparse(call.func)}({', '.join(arguments)})"


class _Plain(ast.NodeTransformer):
    """Takes the translation from around texts."""

    def visit_Call(self, node: ast.Call) -> ast.AST:
        if isinstance(node.func, ast.Name) and node.func.id in ("_", "gettext_lazy") and len(node.args) == 1:
            return node.args[0]
        return self.generic_visit(node)


def names_in(folder: Path) -> list[str]:
    """Return the names of the migrations in a module's folder, in order."""
    return sorted(path.stem for path in (folder / "migrations").glob("[0-9]*.py"))


def _leaves(there: Sequence[str]) -> list[str]:
    return [max(there)]


def _told(operations: list[Values]) -> str:
    """Name a migration after its first operation, as people name them."""
    verb, what = next((verb, held) for verb, held in operations[0].items() if held)
    name = re.sub(r"\W+", "_", str(what["told"])).strip("_").lower()
    return (_TOLD[verb] + name + ("_and_more" if len(operations) > 1 else ""))[:60]


def _operations(data: KitData, after: Brief, old: list[Values], new: list[Values]) -> list[Values]:
    renamed = _renamed_tables(old, new)
    moved: list[Values] = [
        {"rename_model": {"record": one, "to": other, "told": f"{one}_to_{other}"}} for one, other in renamed.items()
    ]
    old = [_under_new_names(table, renamed, after.name.snake) for table in old]
    before = {table["record"]: table for table in old}
    now = {table["record"]: table for table in new}
    operations = moved + _created([table for table in new if table["record"] not in before], list(before))
    for name, table in now.items():
        if name in before:
            operations += _changed(data, after, before[name], table)
    return operations + [{"delete": {"record": name, "told": name}} for name in before if name not in now]


def _renamed_tables(old: list[Values], new: list[Values]) -> dict[str, str]:
    """Return the records that have another name now: the only one gone, and the only new one, with the same fields.

    So their table is renamed, and keeps its rows.
    """
    names, others = {table["record"] for table in old}, {table["record"] for table in new}
    gone = [(_shape(table), table["record"]) for table in old if table["record"] not in others]
    come = [(_shape(table), table["record"]) for table in new if table["record"] not in names]
    shapes = [shape for shape, _ in gone]
    found = {}
    for shape, name in gone:
        alike = [other for another, other in come if another == shape]
        if len(alike) == 1 and shapes.count(shape) == 1:
            found[name] = alike[0]
    return found


def _shape(table: Values) -> list[tuple[str, str]]:
    return [(field["name"], field["kind"]) for field in table["fields"]]


def _under_new_names(table: Values, renamed: dict[str, str], label: str) -> Values:
    """Return a table as it is once the renamed records have their new names."""
    fields = []
    for field in table["fields"]:
        code = field["migration"]
        for one, other in renamed.items():
            code = code.replace(python_text(f"{label}.{one.lower()}"), python_text(f"{label}.{other.lower()}"))
        fields.append({**field, "migration": code, "target": renamed.get(field["target"], field["target"])})
    return {**table, "record": renamed.get(table["record"], table["record"]), "fields": fields}


def _created(tables: list[Values], made: list[str]) -> list[Values]:
    """Order the tables so that a target is made before it is pointed at; what cannot be ordered becomes late."""
    operations: list[Values] = []
    late: list[Values] = []
    waiting = list(tables)
    while waiting:
        ready = next(
            (
                table
                for table in waiting
                if all(field["target"] in ("", table["record"], *made) for field in table["fields"])
            ),
            None,
        )
        table = ready or waiting[0]
        early = [field for field in table["fields"] if ready or field["target"] in ("", table["record"], *made)]
        late += [_field("add", table, field) for field in table["fields"] if field not in early]
        options = [{"option": key, "said": value} for key, value in table["options"].items()]
        created = {"record": table["record"], "fields": early, "options": options, "told": table["record"]}
        created |= {key: table.get(key, "") for key in ("pointer", "bases", "rests_on", "extra")}
        operations.append({"create": created})
        made = [*made, table["record"]]
        waiting.remove(table)
    return operations + late


def _field(operation: str, table: Values, field: Values, **more: object) -> Values:
    told = f"{table['record']}_{field['name']}"
    return {operation: {"on_record": table["record"].lower(), "told": told, "once": False, **field, **more}}


def _changed(data: KitData, after: Brief, old: Values, new: Values) -> list[Values]:
    before = {field["name"]: field for field in old["fields"]}
    now = {field["name"]: field for field in new["fields"]}
    renamed = _renamed(old["fields"], new["fields"])
    operations = [
        _field("rename", old, before[name], to=other, told=f"{old['record']}_{name}_to_{other}")
        for name, other in renamed.items()
    ]
    before = {renamed.get(name, name): field for name, field in before.items()}
    operations += [_field("remove", old, field) for name, field in before.items() if name not in now]
    for name, field in now.items():
        if name not in before:
            operations.append(_added(data, new, field))
        elif before[name]["migration"] != field["migration"]:
            if (before[name]["kind"] == "many") != (field["kind"] == "many"):
                operations += [_field("remove", old, before[name]), _added(data, new, field)]
            else:
                operations.append(_field("alter", new, field))
    if old["options"] != new["options"]:
        options = [{"option": key, "said": new["options"][key]} for key in _OPTIONS if key in new["options"]]
        operations.append(
            {"change_options": {"on_record": new["record"].lower(), "options": options, "told": new["record"]}}
        )
    return operations


def _renamed(old: list[Values], new: list[Values]) -> dict[str, str]:
    """Return the fields that have another name now: in the same place, and but for what people read the same.

    So their column is renamed, and keeps what stands in it; a field of another sort in that place is a new one.
    """
    names, others = {field["name"] for field in old}, {field["name"] for field in new}
    return {
        one["name"]: two["name"]
        for one, two in zip(old, new, strict=False)
        if one["name"] not in others and two["name"] not in names and one["kind"] == two["kind"] != "many"
        if _unnamed(one["migration"]) == _unnamed(two["migration"])
    }


def _unnamed(code: str) -> str:
    """Return a field's code without what people read of it."""
    call = ast.parse(code, mode="eval").body
    assert isinstance(call, ast.Call)
    call.keywords = [word for word in call.keywords if word.arg not in ("verbose_name", "help_text")]
    return ast.unparse(call)


def _added(data: KitData, table: Values, field: Values) -> Values:
    """Add a field; where it must be filled and has no default, rows that are there get the kit's filler once."""
    if not field["must_fill"]:
        return _field("add", table, field)
    known = django(data).fields.get(field["kind"])
    filler = known.filler if known is not None else ""
    if not filler or "unique=True" in field["migration"]:
        raise WrongUse(
            "field-without-value",
            f"{table['record']}.{field['name']}: rows that are there already could not be given a value.",
            "Make the field optional, or give it a default.",
        )
    code = f"{field['migration'][:-1]}, default={filler.format(sample=field['sample'])})"
    return _field("add", table, {**field, "migration": code}, once=True)


def _values(data: KitData, operations: list[Values], dependencies: list[str], brings: Brings = _first) -> Values:
    further = django(data).imports
    fields = list(_written_fields(operations))
    foreign: dict[str, set[str]] = {}
    for field in fields:
        if field["foreign"]:
            foreign.setdefault(field["foreign"], set()).add(field.get("foreign_model", ""))
    created = [held for operation in operations for key, held in operation.items() if key == "create"]
    rests_on = sorted({table["rests_on"] for table in created} - {""})
    dependencies = [
        *dependencies,
        *(f'({python_text(name)}, "__latest__")' for name in rests_on),
        *(
            "migrations.swappable_dependency(settings.AUTH_USER_MODEL)"
            if name == "user"
            else f"({python_text(name)}, {python_text(brings(name, models))})"
            for name, models in sorted(foreign.items())
        ),
    ]

    def used(text: str) -> bool:
        whole = [one[key] for one in created for key in ("pointer", "extra")]
        return any(text in code for code in (*(field["migration"] for field in fields), *whole))

    plain = ["import datetime"] if used("datetime.") else []
    plain += ["import uuid"] if used("uuid.uuid") else []
    plain += ["from decimal import Decimal"] if used("Decimal(") else []
    imports = [*plain, ""] if plain else []
    imports += ["import django.db.models.deletion"] if used("models.deletion") else []
    imports += ["import django.utils.timezone"] if used("utils.timezone") else []
    imports += ["from django.conf import settings"] if "user" in foreign or used("settings.") else []
    imports.append("from django.db import migrations, models")
    imports += sorted({line for text, line in further.items() if used(text)})
    operations = [dict.fromkeys(_SORTS) | operation for operation in operations]
    return {"operations": operations, "dependencies": lines(dependencies), "migration_imports": lines(imports)}


def _written_fields(operations: list[Values]) -> Iterator[Values]:
    """Yield every field that operations write out."""
    for operation in operations:
        for key, held in operation.items():
            if key == "create":
                yield from held["fields"]
            elif key in ("add", "alter"):
                yield held


def _filled(templates: Templates, values: Values, first: bool) -> str:
    return tidy_python(templates.fill("migration.py.mustache", {"first": first, **values}))
