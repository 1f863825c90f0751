"""Records, their fields and permissions, and settings."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from ......core.errors import SproutError
from ......core.fields import PIECES, Choice, Field, parse_field, spell_field
from ......core.names import NameFamily, at_beginning, name_family, words_of
from ......core.parts.records import Record
from ......core.parts.rights import Permission
from ...facts import django
from ..code import class_named, spelled
from .base import LeftOut, PartReading
from .values import (
    derives,
    has_table,
    is_field,
    is_true,
    meta_keys,
    meta_text,
    meta_texts,
    meta_value,
    number_of,
    text_of,
)

if TYPE_CHECKING:
    pass


_RELATIONS = {"ForeignKey": "one", "OneToOneField": "one", "ManyToManyField": "many"}
_LARGEST_TEXT = 10_000


#  what a brief says of a model's `Meta`, or is said where the module lies
META_SAID = ("ordering", "verbose_name", "verbose_name_plural", "permissions", "app_label", "abstract")


class RecordReading(PartReading):
    """Reads models; ``choice_classes`` are those that fields of the model that is being read may name."""

    choice_classes: Mapping[str, ast.ClassDef] = MappingProxyType({})

    def models(self) -> tuple[list[Record], list[Permission], list[Any]]:
        """Return records, permissions and settings."""
        records: list[Record] = []
        permissions: list[Permission] = []
        settings: list[Any] = []
        elsewhere = django(self.view.data).settings
        if elsewhere is not None:
            path = self.module.folder / f"{elsewhere.file}.py"
            tree = self.tree(path)
            form = class_named(tree, "Preferences") if tree is not None else None
            settings += self.preferences(path, form) if form is not None else ()
        bases = self._derived()
        for path in self.model_files:
            tree = self.tree(path)
            for node in tree.body if tree is not None else ():
                if isinstance(node, ast.ClassDef) and node.name in bases and derives(node, bases):
                    if not has_table(node):
                        continue
                    if node.name == "Preferences" and self.module.has("preferences.py"):
                        settings += self.preferences(path, node)
                        continue
                    record = self.record(path, node)
                    if record is not None:
                        records.append(record)
                        self.places["record", record.key] = (path, node.lineno)
                        permissions += self.permissions(path, node, record)
        return records, permissions, settings

    def _derived(self) -> set[str]:
        """Return the names of the module's classes that derive from a model, over any number of steps and files."""
        trees = [tree for path in self.model_files if (tree := self.tree(path)) is not None]
        classes = [node for tree in trees for node in tree.body if isinstance(node, ast.ClassDef)]
        found: set[str] = set()
        while more := {node.name for node in classes if node.name not in found and derives(node, found)}:
            found |= more
        return found

    def record(self, path: Path, node: ast.ClassDef) -> Record | None:
        """Return the record of a model; None for one without a field that a brief can say."""
        if self.names_only:
            fields_there = any(is_field(one) for one in node.body)
            return Record(name_family(node.name, what="record"), ()) if fields_there else None
        self.choice_classes = self._choice_classes(path, node)
        fields = [field for field in self.fields(path, node) if field is not None]
        if not fields:
            self.left_out.append(LeftOut(path, node.lineno, f"the model {node.name} has no field that a brief can say"))
            return None
        for line, key in meta_keys(node):
            if key not in META_SAID:
                what = f"{node.name}.Meta.{key}: it stays in the file, and a brief does not know of it"
                self.left_out.append(LeftOut(path, line, what))
        order = tuple(
            one for one in meta_texts(node, "ordering") if one.lstrip("-") in {field.name for field in fields}
        )
        title = at_beginning(meta_text(node, "verbose_name"))
        family = name_family(node.name, what="record")
        if title and words_of(title)[0] == family.words:
            family = NameFamily(title, family.words)
        plural = at_beginning(meta_text(node, "verbose_name_plural"))
        docstring = ast.get_docstring(node) or ""
        shown = _shown_as(node, fields)
        record = Record(family, tuple(fields), docstring.split("\n")[0], order, "", "")
        if plural and plural.lower() != record.plural.title.lower():
            record = record._replace(plural_title=plural)
        return record._replace(shown_as=shown if shown and shown != record.title_field.name else "")

    def _choice_classes(self, path: Path, node: ast.ClassDef) -> dict[str, ast.ClassDef]:
        """Return the classes of text choices that a model's fields may name: its own, and those of its file."""
        tree = self.tree(path)
        bodies = [*(tree.body if tree is not None else ()), *node.body]
        classes = [one for one in bodies if isinstance(one, ast.ClassDef)]
        return {one.name: one for one in classes if any(spelled(base).endswith("TextChoices") for base in one.bases)}

    def preferences(self, path: Path, node: ast.ClassDef) -> Iterator[Any]:
        """Yield the settings of a model or form that holds them."""
        from ......core.parts.contents import Setting

        elsewhere = django(self.view.data).settings
        own = elsewhere.field if elsewhere is not None else ""  # what the host wants in each such form
        if self.names_only:
            for one in node.body:
                if is_field(one) and not (isinstance(one, ast.Assign) and ast.unparse(one.targets[0]) == own):
                    assert isinstance(one, ast.Assign)
                    self.places["setting", ast.unparse(one.targets[0])] = (path, node.lineno)
            return
        for field in self.fields(path, node):
            if field is not None and field.name != own:
                self.places["setting", field.name] = (path, node.lineno)
                yield Setting(field)

    def fields(self, path: Path, node: ast.ClassDef) -> Iterator[Field | None]:
        """Yield the fields of a model; None for one of a type that a brief has not."""
        for statement in node.body:
            if not (isinstance(statement, ast.Assign) and isinstance(statement.value, ast.Call)):
                continue
            target, call = statement.targets[0], statement.value
            kind = spelled(call.func).rpartition(".")[2]
            if not isinstance(target, ast.Name) or not (
                kind in self.view.field_types or kind.endswith(("Field", "Key"))
            ):
                continue
            reserved = target.id in self.view.data.facts.naming.reserved_fields
            if reserved or any(word.arg == "primary_key" for word in call.keywords):
                what = f"{node.name}.{target.id}: a brief has no keys of its own, and no names that the host keeps"
                self.left_out.append(LeftOut(path, statement.lineno, what))
                continue
            try:
                field = self.field(target.id, kind, call)
            except (SproutError, ValueError) as error:
                reason = getattr(error, "sentence", str(error))
                self.left_out.append(LeftOut(path, statement.lineno, f"{node.name}.{target.id}: {reason}"))
                continue
            if field is None:
                itself = any(text_of(one) == "self" for one in call.args[:1])
                why = (
                    "a brief has no record that points to itself"
                    if itself
                    else f"a brief has no field of the type {kind}"
                )
                what = f"{node.name}.{target.id}: {why}"
                self.left_out.append(LeftOut(path, statement.lineno, what))
            yield field

    def field(self, name: str, kind: str, call: ast.Call) -> Field | None:
        """Return the field of a line; None where a brief has no such type."""
        said = {word.arg: word.value for word in call.keywords if word.arg}
        label = self.label(kind, call, said) or parse_field(f"{name}: text").label
        optional = is_true(said.get("null")) or is_true(said.get("blank"))
        shared = {"optional": optional, "unique": is_true(said.get("unique")), "help": text_of(said.get("help_text"))}
        if kind in _RELATIONS:
            target = self.target(call, said)
            sorts = [one for one in ("image", "document") if target and self.library_of(one) == target.lower()]
            library = sorts[0] if sorts else ""
            if library:
                return Field(name, library, label, optional=is_true(said.get("blank")), help=str(shared["help"]))
            reverse = text_of(said.get("related_name"))
            usable = reverse if re.fullmatch(r"[a-z][a-z0-9_]*", reverse) else ""
            unique = bool(shared["unique"]) or kind == "OneToOneField"
            field = Field(name, _RELATIONS[kind], label, target=target, reverse=usable, **(shared | {"unique": unique}))  # type: ignore[arg-type]
            return _proven(field) if target else None
        if self.view.field_types.get(kind) == "content":
            pieces = tuple(text_of(one.elts[0]) for one in ast.walk(call) if isinstance(one, ast.Tuple) and one.elts)
            field = Field(name, "content", label, pieces=tuple(one for one in PIECES if one in pieces) or PIECES)
            return field._replace(optional=is_true(said.get("blank")), help=str(shared["help"]))
        choices = _choices(said.get("choices"), self.choice_classes)
        sort = "choice" if choices else self.view.field_types.get(kind)
        if not sort:
            return None
        sizes: dict[str, Any] = {}
        if sort == "text":
            sizes["length"] = min(number_of(said.get("max_length"), 200), _LARGEST_TEXT)
        elif sort == "decimal":
            sizes = {
                "digits": number_of(said.get("max_digits"), 10),
                "places": number_of(said.get("decimal_places"), 2),
            }
        field = Field(name, sort, label, choices=choices, **sizes, **shared)  # type: ignore[arg-type]
        default = _default(said.get("default"), sort) or _member_named(said.get("default"), self.choice_classes)
        return _proven(field._replace(default=default)) if default is not None else _proven(field)

    def library_of(self, sort: str) -> str:
        """Return the record of the host's library that a type of field points at; empty for none."""
        known = django(self.view.data).fields.get(sort)
        return known.arguments[0].strip('"').lower() if known is not None and known.arguments else ""

    def label(self, kind: str, call: ast.Call, said: dict[str, ast.expr]) -> str:
        """Return the label that a field says; empty for none."""
        if kind not in _RELATIONS and call.args:
            return at_beginning(text_of(call.args[0]))
        return at_beginning(text_of(said.get("verbose_name")))

    def target(self, call: ast.Call, said: dict[str, ast.expr]) -> str:
        """Return the record that a relation leads to."""
        node = said.get("to") or (call.args[0] if call.args else None)
        if node is None:
            return ""
        text = text_of(node) or spelled(node)
        if text in ("settings.AUTH_USER_MODEL", "get_user_model()", "auth.User", "User"):
            return "user"
        module, _, name = text.rpartition(".")
        if text == "self" or module == "models":
            return "" if text == "self" else name
        return f"{module.split('.')[-1]}.{name}" if module and module != self.module.label else name

    def permissions(self, path: Path, node: ast.ClassDef, record: Record) -> Iterator[Permission]:
        """Yield the permissions of a model."""
        meta = meta_value(node, "permissions")
        for pair in meta.elts if isinstance(meta, ast.List | ast.Tuple) else ():
            if not (isinstance(pair, ast.List | ast.Tuple) and len(pair.elts) == 2):
                continue
            codename, title = text_of(pair.elts[0]), text_of(pair.elts[1])
            if not codename:
                continue  # it is worked out
            words = words_of(title)[0]
            named = NameFamily(title, words) if "_".join(words) == codename else None
            permission = Permission(named or name_family(codename, what="permission"), record.name.title)
            self.places["permission", permission.key] = (path, pair.lineno)
            yield permission


def _shown_as(node: ast.ClassDef, fields: list[Field]) -> str:
    for statement in node.body:
        if isinstance(statement, ast.FunctionDef) and statement.name == "__str__":
            for one in ast.walk(statement):
                if isinstance(one, ast.Attribute) and isinstance(one.value, ast.Name) and one.value.id == "self":
                    name = re.sub(r"^get_(\w+)_display$", r"\1", one.attr)
                    if any(field.name == name for field in fields):
                        return name
    return ""


def _choices(node: ast.expr | None, classes: Mapping[str, ast.ClassDef]) -> tuple[Choice, ...]:
    """Return the choices that a field says: written out there, or as the members of a class."""
    name = (
        spelled(node).removesuffix(".choices").rpartition(".")[2] if isinstance(node, ast.Name | ast.Attribute) else ""
    )
    if name in classes:
        return tuple(_members(classes[name]))
    found = []
    for pair in node.elts if isinstance(node, ast.List | ast.Tuple) else ():
        if isinstance(pair, ast.List | ast.Tuple) and len(pair.elts) == 2 and text_of(pair.elts[0]):
            found.append(Choice(text_of(pair.elts[0]), text_of(pair.elts[1]) or text_of(pair.elts[0])))
    return tuple(found)


def _members(node: ast.ClassDef) -> Iterator[Choice]:
    """Yield the choices of a class of text choices (Django 5.2): a member without a label has its name as one."""
    for one in node.body:
        if isinstance(one, ast.Assign) and isinstance(one.targets[0], ast.Name):
            parts = one.value.elts if isinstance(one.value, ast.Tuple) else [one.value]
            value = text_of(parts[0]) if parts else ""
            label = text_of(parts[1]) if len(parts) > 1 else one.targets[0].id.replace("_", " ").title()
            if value:
                yield Choice(value, label or value)


def _member_named(node: ast.expr | None, classes: Mapping[str, ast.ClassDef]) -> str | None:
    """Return the value of a member of a class of choices; None for all else."""
    if isinstance(node, ast.Attribute) and (holder := classes.get(spelled(node.value).rpartition(".")[2])) is not None:
        for one in holder.body:
            if isinstance(one, ast.Assign) and isinstance(one.targets[0], ast.Name) and one.targets[0].id == node.attr:
                return text_of(one.value.elts[0] if isinstance(one.value, ast.Tuple) else one.value) or None
    return None


def _default(node: ast.expr | None, sort: str) -> str | None:
    if node is None:
        return None
    if isinstance(node, ast.Constant) and isinstance(node.value, bool):
        return "yes" if node.value else (None if sort == "yes/no" else "no")
    if isinstance(node, ast.Constant) and isinstance(node.value, str | int | float) and node.value != "":
        return str(node.value)
    if isinstance(node, ast.Call) and len(node.args) == 1 and text_of(node.args[0]):
        return text_of(node.args[0])  # Decimal("1.5"), date.fromisoformat("…")
    name = spelled(node) if isinstance(node, ast.Name | ast.Attribute) else ""
    return "now" if name.endswith("timezone.now") else "today" if name.endswith("date.today") else None


def _proven(field: Field) -> Field:
    """Return the field as the field grammar would read it back; raises WrongUse where it cannot say it."""
    read = parse_field(spell_field(field))
    if read != field:
        raise ValueError("the field grammar cannot say it")
    return read
