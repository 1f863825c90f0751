"""The parts of a module as its files tell them: what a brief of it would say. Nothing is run."""

from __future__ import annotations

import ast
from pathlib import Path
from typing import TYPE_CHECKING, Any

from .....core.brief import Brief, contradictions
from .....core.errors import SproutError
from .....core.fields import parse_field
from .....core.names import NameFamily, name_family, words_of
from .....core.parts.records import Record
from .....core.parts.rights import Group, Permission
from .rights import access_of
from .routes import routes_of

if TYPE_CHECKING:
    from ..view import HostView
    from .code import CodeClass, CodeField
    from .modules import ModuleFiles

LeftOut = tuple[Path, int, str]
Places = dict[tuple[str, str], tuple[Path, int]]
_TYPES = {
    "Char": "text",
    "Text": "long text",
    "Integer": "integer",
    "BigInteger": "integer",
    "Numeric": "decimal",
    "Float": "number",
    "Boolean": "yes/no",
    "Date": "date",
    "Time": "time",
    "DateTime": "datetime",
    "Timestamp": "datetime",
    "TimeDelta": "duration",
    "Selection": "choice",
    "Binary": "file",
}
_VERBS = {"read": "read", "create": "create", "write": "change", "delete": "delete"}


def read_parts(view: HostView, module: ModuleFiles) -> tuple[Brief, list[LeftOut], Places]:
    """Read records, permissions and groups of a module; pages, menus and jobs are told as left out."""
    left_out: list[LeftOut] = []
    places: Places = {}
    records: list[Record] = []
    listed = {one.text.rpartition(".")[2] for one in module.registered}
    for one in module.classes:
        own = one.model.startswith(f"{module.name}.") and one.sort == "model" and not one.extends
        if not own or one.name not in listed or "-" in one.model:
            continue
        bases = {base.rpartition(".")[2] for base in one.bases}
        if "ModelSQL" not in bases or "ModelSingleton" in bases or "ModelView" not in bases:
            left_out.append((one.path, one.line, f"{one.model} is no record of its own that people work with"))
            continue
        record = _record(module, one, left_out)
        if record is not None:
            records.append(record)
            places["record", record.key] = (one.path, one.line)
    permissions, groups = _rights(module, records, places)
    left_out += [
        (one.owner.path, one.line, f"the route {one.method!r} is not read into a page") for one in routes_of(module)
    ]
    name = NameFamily(module.title, tuple(module.name.split("_")))
    needs = tuple(item.text for item in module.depends if item.text not in ("ir", "res"))
    brief = Brief(name, version=module.version or "0.1.0", needs=needs, records=tuple(records))
    brief = brief._replace(permissions=tuple(permissions), groups=tuple(groups))
    wrong = {path[:2] for path, _, _ in contradictions(brief)}
    for kind, index in [pair for pair in wrong if len(pair) == 2]:
        part = brief.parts(str(kind))[int(index)]
        place = places.get((str(kind), part.key), (module.folder, 0))
        left_out.append((*place, f"the {kind} {part.key} contradicts the rest of the module"))
    kept = {
        field: tuple(part for index, part in enumerate(getattr(brief, field)) if (kind, index) not in wrong)
        for kind, field in (("record", "records"), ("permission", "permissions"), ("group", "groups"))
    }
    changed: dict[str, Any] = kept
    return brief._replace(**changed), left_out, places


def _record(module: ModuleFiles, code_class: CodeClass, left_out: list[LeftOut]) -> Record | None:
    fields = []
    for field in code_class.fields.values():
        line = _field_line(module, code_class, field)
        try:
            if not line:
                raise ValueError
            fields.append(parse_field(line))
        except (SproutError, ValueError):
            what = f"{code_class.model}.{field.name} of type {field.kind} cannot be said in a brief"
            if field.kind != "One2Many":
                left_out.append((code_class.path, field.line, what))
    words, foreign = words_of(code_class.model.partition(".")[2].replace("_", " "))
    if not fields or foreign or not words:
        left_out.append((code_class.path, code_class.line, f"{code_class.model} has no fields that a brief can say"))
        return None
    shown = code_class.assigned.get("_rec_name")
    shown_as = str(shown.value) if isinstance(shown, ast.Constant) else ""
    title = code_class.assigned.get("__string__")
    name = name_family(str(title.value) if isinstance(title, ast.Constant) else " ".join(words).capitalize())
    if name.snake != code_class.model.partition(".")[2]:
        name = name_family(" ".join(words).capitalize())
    summary = ast.get_docstring(code_class.node) or ""
    known = {field.name for field in fields}
    return Record(
        name,
        tuple(fields),
        summary.splitlines()[0] if summary else "",
        _order(code_class, known),
        "",
        shown_as if shown_as in known else "",
    )


def _order(code_class: CodeClass, known: set[str]) -> tuple[str, ...]:
    for node in ast.walk(code_class.node):
        if isinstance(node, ast.Assign) and ast.unparse(node.targets[0]) in ("cls._order", "_order"):
            try:
                pairs = ast.literal_eval(node.value)
            except ValueError:
                return ()
            return tuple(("-" if str(way).startswith("DESC") else "") + name for name, way in pairs if name in known)
    return ()


def _field_line(module: ModuleFiles, code_class: CodeClass, field: CodeField) -> str:
    """Spell a field in the grammar of briefs; empty where it cannot be."""
    call = code_class.assigned.get(field.name, None)
    if not isinstance(call, ast.Call) or ast.unparse(call.func).endswith(("Function", "MultiValue")):
        return ""
    texts = [node.value for node in call.args if isinstance(node, ast.Constant) and isinstance(node.value, str)]
    words = {key.arg: key.value for key in call.keywords}
    options = "" if field.required or field.kind == "Boolean" else ", optional"
    label = texts[1] if field.target and len(texts) > 1 else texts[0] if texts and not field.target else ""
    usual = field.name.replace("_", " ").capitalize()
    options += f', label "{label}"' if label and label != usual and '"' not in label else ""
    if field.kind == "Many2One":
        other, _, name = field.target.partition(".")
        target = "".join(word.title() for word in name.split("_")) if name else ""
        target = "user" if field.target == "res.user" else target if other == module.name else f"{other}.{target}"
        return f"{field.name} -> {target}{options}" if name else ""
    kind = _TYPES.get(field.kind, "")
    size = words.get("size")
    if field.kind == "Char" and isinstance(size, ast.Constant):
        kind = f"text({size.value!r})"
    elif field.kind == "Char":
        kind = "text(255)"
    elif field.kind == "Numeric":
        try:
            whole, places = ast.literal_eval(words["digits"])
            kind = f"decimal({whole + places},{places})"
        except (KeyError, ValueError, TypeError):
            kind = "decimal(16,2)"
    elif field.kind == "Selection":
        try:
            pairs = [(value, label) for value, label in ast.literal_eval(call.args[0]) if value]
        except (ValueError, IndexError, TypeError):
            return ""
        kind = "choice(" + ", ".join(f'{value}="{label}"' for value, label in pairs) + ")"
    return f"{field.name}: {kind!s}{options}" if kind else ""


def _rights(module: ModuleFiles, records: list[Record], places: Places) -> tuple[list[Permission], list[Group]]:
    by_model = {f"{module.name}.{record.name.snake}": record for record in records}
    permissions = []
    for data in module.records:
        if data.model == "ir.model.button" and data.text("model") in by_model:
            try:
                one = Permission(
                    name_family(data.text("string") or data.text("name")), by_model[data.text("model")].name.title
                )
            except SproutError:
                continue
            if one.key == data.text("name"):
                permissions.append(one)
                places["permission", one.key] = (data.path, data.line)
    found = access_of(module)
    groups = []
    for data in module.records:
        if data.model != "res.group" or data.update:
            continue
        try:
            name = name_family(data.text("name"), what="group")
        except SproutError:
            continue
        rights = found.groups.get(data.text("name"), set())
        may = tuple(
            (record.name.title, tuple(verb for mode, verb in _VERBS.items() if (model, mode) in rights))
            for model, record in by_model.items()
            if any((model, mode) in rights for mode in _VERBS)
        )
        also = tuple(one.name.title for one in permissions if (one.key, "") in rights)
        groups.append(Group(name, may, also))
        places["group", name.snake] = (data.path, data.line)
    return permissions, groups
