"""The parts of a module as its files tell them: what a brief of it would say. Nothing is run."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from .....core.brief import Brief, contradictions
from .....core.errors import SproutError
from .....core.fields import PIECES, Choice, Field, parse_field, spell_field
from .....core.names import NameFamily, name_family, words_of
from .....core.parts.kinds import KINDS
from .....core.parts.pages import Page, make_page
from .....core.parts.pagetypes import PageType
from .....core.parts.placing import Block, MenuEntry
from .....core.parts.programs import Command
from .....core.parts.records import Record
from .....core.parts.rights import Group, Permission
from .....core.parts.screens import StaffScreen
from ..facts import django
from .claims import commands_of
from .code import class_named, function_named, spelled
from .guards import ConfigGuards, Guard, config_guards

if TYPE_CHECKING:
    from ..view import HostView
    from .addresses import Address
    from .modules import ModuleFiles

_RELATIONS = {"ForeignKey": "one", "OneToOneField": "one", "ManyToManyField": "many"}
_CONVERTERS = {"int": "integer", "str": "text", "slug": "slug", "uuid": "uuid"}
_GUARDS = {"LoginRequiredMixin": "signed in", "login_required": "signed in", "staff_member_required": "staff"}
_VERBS = {"view": "read", "add": "create", "change": "change", "delete": "delete"}
_PARAMETER = re.compile(r"<(?:(\w+):)?(\w+)>")
_LARGEST_TEXT = 10_000


class LeftOut(NamedTuple):
    """Something in the files that a brief cannot say, and why."""

    file: Path
    line: int
    what: str


class ReadModule(NamedTuple):
    """What the files of a module tell: the brief, what it cannot say, and where each part stands by kind and key."""

    brief: Brief
    left_out: list[LeftOut]
    places: dict[tuple[str, str], tuple[Path, int]]


def read_parts(view: HostView, module: ModuleFiles) -> ReadModule:
    """Read the records, permissions, groups, pages, menu, blocks and commands of a module."""
    return _Reader(view, module).read()


def part_names(view: HostView, module: ModuleFiles) -> dict[tuple[str, str], tuple[Path, int]]:
    """Return only where each part stands, by kind and key: much less work than reading what the parts are."""
    reader = _Reader(view, module, names_only=True)
    reader.read()
    return reader.places


class _Reader:
    def __init__(self, view: HostView, module: ModuleFiles, names_only: bool = False) -> None:
        self.names_only = names_only
        self.view = view
        self.module = module
        self.left_out: list[LeftOut] = []
        self.places: dict[tuple[str, str], tuple[Path, int]] = {}

    def read(self) -> ReadModule:
        title = self.module.title or " ".join(words_of(self.module.label)[0]).capitalize()
        name = NameFamily(title, tuple(self.module.label.split("_")))
        records, permissions, settings = self.models()
        brief = Brief(
            name,
            version=self.module.version or "0.1.0",
            records=tuple(records),
            permissions=tuple(permissions),
            settings=tuple(settings),
        )
        brief = brief._replace(
            pages=tuple(self.pages(brief)),
            staff_screens=tuple(self.screens(brief)),
            page_types=tuple(self.page_types()),
            commands=tuple(self.commands()),
            blocks=tuple(self.blocks()),
            groups=tuple(self.groups(brief)),
        )
        brief = brief._replace(menu=tuple(self.menu(brief)))
        if not self.names_only:
            brief = self.without_contradictions(brief)
        return ReadModule(brief, self.left_out, self.places)

    def without_contradictions(self, brief: Brief) -> Brief:
        """Leave out parts that a brief could not say beside the others, and tell them."""
        for _ in range(50):
            found = contradictions(brief)
            if not found:
                break
            (kind, index, *_), what, _ = found[0]
            parts = brief.parts(str(kind))
            assert isinstance(index, int)
            file, line = self.places.pop((str(kind), parts[index].key), (self.module.folder, 0))
            self.left_out.append(LeftOut(file, line, what))
            changed: dict[str, Any] = {KINDS[str(kind)][0]: (*parts[:index], *parts[index + 1 :])}
            brief = brief._replace(**changed)
        return brief

    def tree(self, path: Path) -> ast.Module | None:
        source = self.view.project.parse(path)
        return source.tree if source is not None else None

    @cached_property
    def model_files(self) -> list[Path]:
        folder = self.module.folder
        inside = sorted((folder / "models").glob("*.py")) if self.module.has("models") else []
        return [folder / "models.py", *inside] if self.module.has("models.py") else inside

    # -- records ---------------------------------------------------------------------------------------------------

    def models(self) -> tuple[list[Record], list[Permission], list[Any]]:
        records: list[Record] = []
        permissions: list[Permission] = []
        settings: list[Any] = []
        elsewhere = django(self.view.data).settings
        if elsewhere is not None:
            path = self.module.folder / f"{elsewhere.file}.py"
            tree = self.tree(path)
            form = class_named(tree, "Preferences") if tree is not None else None
            settings += self.preferences(path, form) if form is not None else ()
        for path in self.model_files:
            tree = self.tree(path)
            bases: set[str] = set()
            for node in tree.body if tree is not None else ():
                if isinstance(node, ast.ClassDef) and _derives(node, bases):
                    bases.add(node.name)
                    if not _has_table(node):
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

    def page_types(self) -> Iterator[PageType]:
        """Yield the types of pages; where one is made in the tree is said by the module's list of pages."""
        if "page_type" not in self.view.data.parts:
            return
        placed = self.placed_pages()
        known = {"Page"}
        for path in [*self.model_files, self.module.folder / "page_types.py"]:
            tree = self.tree(path)
            for node in tree.body if tree is not None else ():
                if not isinstance(node, ast.ClassDef) or not _has_table(node):
                    continue
                if not known & {spelled(base).rpartition(".")[2] for base in node.bases}:
                    continue
                known.add(node.name)
                name = name_family(node.name, what="page type")
                self.places["page_type", name.snake] = (path, node.lineno)
                if self.names_only:
                    continue
                title = _meta_text(node, "verbose_name")
                if title and words_of(title)[0] == name.words:
                    name = NameFamily(title, name.words)
                fields = tuple(field for field in self.fields(path, node) if field is not None)
                lists = {key: self.types_named(node, key) for key in ("parent_page_types", "subpage_types")}
                page = placed.get(node.name, {})
                yield PageType(
                    name,
                    fields,
                    (ast.get_docstring(node) or "").split("\n")[0],
                    lists["parent_page_types"] or (),
                    ("nothing",) if lists["subpage_types"] == () else lists["subpage_types"] or (),
                    str(page.get("title", "")),
                    str(page.get("below", "/")),
                    bool(page.get("live", True)),
                )

    def types_named(self, node: ast.ClassDef, key: str) -> tuple[str, ...] | None:
        """Return the types that a list of a page type names, the module's own by name; None where there is no list."""
        for statement in node.body:
            if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                if statement.targets[0].id == key and isinstance(statement.value, ast.List | ast.Tuple):
                    texts = [_text(one) for one in statement.value.elts]
                    own = f"{self.module.label}."
                    return tuple(
                        " ".join(words_of(text.removeprefix(own))[0]).capitalize() if text.startswith(own) else text
                        for text in texts
                        if text
                    )
        return None

    def placed_pages(self) -> dict[str, dict[str, Any]]:
        """Return what the module's list of pages says, by type."""
        import json

        try:
            told = json.loads((self.module.folder / "page_tree.json").read_text("utf-8"))
            return {str(entry["type"]): entry for entry in told}
        except (OSError, ValueError, KeyError, TypeError):
            return {}

    def record(self, path: Path, node: ast.ClassDef) -> Record | None:
        if self.names_only:
            fields_there = any(_is_field(one) for one in node.body)
            return Record(name_family(node.name, what="record"), ()) if fields_there else None
        fields = [field for field in self.fields(path, node) if field is not None]
        if not fields:
            self.left_out.append(LeftOut(path, node.lineno, f"the model {node.name} has no field that a brief can say"))
            return None
        order = tuple(
            one for one in _meta_texts(node, "ordering") if one.lstrip("-") in {field.name for field in fields}
        )
        title = _meta_text(node, "verbose_name")
        family = name_family(node.name, what="record")
        if title and words_of(title)[0] == family.words:
            family = NameFamily(title, family.words)
        plural = _meta_text(node, "verbose_name_plural")
        docstring = ast.get_docstring(node) or ""
        shown = _shown_as(node, fields)
        record = Record(family, tuple(fields), docstring.split("\n")[0], order, "", "")
        if plural and plural.lower() != record.plural.title.lower():
            record = record._replace(plural_title=plural)
        return record._replace(shown_as=shown if shown and shown != record.title_field.name else "")

    def preferences(self, path: Path, node: ast.ClassDef) -> Iterator[Any]:
        from .....core.parts.contents import Setting

        elsewhere = django(self.view.data).settings
        own = elsewhere.field if elsewhere is not None else ""  # what the host wants in each such form
        if self.names_only:
            for one in node.body:
                if _is_field(one) and not (isinstance(one, ast.Assign) and ast.unparse(one.targets[0]) == own):
                    assert isinstance(one, ast.Assign)
                    self.places["setting", ast.unparse(one.targets[0])] = (path, node.lineno)
            return
        for field in self.fields(path, node):
            if field is not None and field.name != own:
                self.places["setting", field.name] = (path, node.lineno)
                yield Setting(field)

    def fields(self, path: Path, node: ast.ClassDef) -> Iterator[Field | None]:
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
                what = f"{node.name}.{target.id}: a brief has no field of the type {kind}"
                self.left_out.append(LeftOut(path, statement.lineno, what))
            yield field

    def field(self, name: str, kind: str, call: ast.Call) -> Field | None:
        said = {word.arg: word.value for word in call.keywords if word.arg}
        label = self.label(kind, call, said) or parse_field(f"{name}: text").label
        optional = _is_true(said.get("null")) or _is_true(said.get("blank"))
        shared = {"optional": optional, "unique": _is_true(said.get("unique")), "help": _text(said.get("help_text"))}
        if kind in _RELATIONS:
            target = self.target(call, said)
            sorts = [one for one in ("image", "document") if target and self.library_of(one) == target.lower()]
            library = sorts[0] if sorts else ""
            if library:
                return Field(name, library, label, optional=_is_true(said.get("blank")), help=str(shared["help"]))
            reverse = _text(said.get("related_name"))
            usable = reverse if re.fullmatch(r"[a-z][a-z0-9_]*", reverse) else ""
            unique = bool(shared["unique"]) or kind == "OneToOneField"
            field = Field(name, _RELATIONS[kind], label, target=target, reverse=usable, **(shared | {"unique": unique}))  # type: ignore[arg-type]
            return _proven(field) if target else None
        if self.view.field_types.get(kind) == "content":
            pieces = tuple(_text(one.elts[0]) for one in ast.walk(call) if isinstance(one, ast.Tuple) and one.elts)
            field = Field(name, "content", label, pieces=tuple(one for one in PIECES if one in pieces) or PIECES)
            return field._replace(optional=_is_true(said.get("blank")), help=str(shared["help"]))
        choices = _choices(said.get("choices"))
        sort = "choice" if choices else self.view.field_types.get(kind)
        if not sort:
            return None
        sizes: dict[str, Any] = {}
        if sort == "text":
            sizes["length"] = min(_number(said.get("max_length"), 200), _LARGEST_TEXT)
        elif sort == "decimal":
            sizes = {"digits": _number(said.get("max_digits"), 10), "places": _number(said.get("decimal_places"), 2)}
        field = Field(name, sort, label, choices=choices, **sizes, **shared)  # type: ignore[arg-type]
        default = _default(said.get("default"), sort)
        return _proven(field._replace(default=default)) if default is not None else _proven(field)

    def library_of(self, sort: str) -> str:
        """Return the record of the host's library that a type of field points at; empty for none."""
        known = django(self.view.data).fields.get(sort)
        return known.arguments[0].strip('"').lower() if known is not None and known.arguments else ""

    def label(self, kind: str, call: ast.Call, said: dict[str, ast.expr]) -> str:
        if kind not in _RELATIONS and call.args:
            return _text(call.args[0])
        return _text(said.get("verbose_name"))

    def target(self, call: ast.Call, said: dict[str, ast.expr]) -> str:
        node = said.get("to") or (call.args[0] if call.args else None)
        if node is None:
            return ""
        text = _text(node) or spelled(node)
        if text in ("settings.AUTH_USER_MODEL", "get_user_model()", "auth.User", "User"):
            return "user"
        module, _, name = text.rpartition(".")
        if text == "self" or module == "models":
            return "" if text == "self" else name
        return f"{module.split('.')[-1]}.{name}" if module and module != self.module.label else name

    def permissions(self, path: Path, node: ast.ClassDef, record: Record) -> Iterator[Permission]:
        meta = _meta_value(node, "permissions")
        for pair in meta.elts if isinstance(meta, ast.List | ast.Tuple) else ():
            if not (isinstance(pair, ast.List | ast.Tuple) and len(pair.elts) == 2):
                continue
            codename, title = _text(pair.elts[0]), _text(pair.elts[1])
            words = words_of(title)[0]
            named = NameFamily(title, words) if "_".join(words) == codename else None
            permission = Permission(named or name_family(codename, what="permission"), record.name.title)
            self.places["permission", permission.key] = (path, pair.lineno)
            yield permission

    # -- pages -----------------------------------------------------------------------------------------------------

    def pages(self, brief: Brief) -> Iterator[Page]:
        found: dict[str, tuple[Page, Address]] = {}
        for address in self.addresses():
            if self.is_endpoint(address) or self.guard_of(address) is not None:
                continue
            if self.names_only:
                self.places.setdefault(("page", _brief_path(address.path)), (address.route.file, address.route.line))
                continue
            page = self.page(brief, address)
            if page is None:
                what = f"the address {address.path} has a form that a brief cannot say"
                self.left_out.append(LeftOut(address.route.file, address.route.line, what))
            elif page.path not in found:
                found[page.path] = (page, address)
        for path, (page, _) in list(found.items()):
            below = re.sub(r"/\{\w+: integer\}$", "", path) if page.shows and page.view == "one" else path
            if (
                below != path
                and below in found
                and found[below][0].shows == page.shows
                and found[below][0].view == "list"
            ):
                found[below] = (found[below][0]._replace(view="list and one"), found[below][1])
                del found[path]
        for page, address in found.values():
            self.places["page", page.path] = (address.route.file, address.route.line)
            yield page

    @cached_property
    def guards(self) -> ConfigGuards | None:
        """The guards of the module's config class, where the kit has screens that those are for."""
        return config_guards(self.view.project, self.module) if "staff_screen" in self.view.data.parts else None

    def guard_of(self, address: Address) -> Guard | None:
        """Return what the module's config class asks for an address, or None."""
        return self.guards.by_name.get(address.route.name) if self.guards is not None else None

    def screens(self, brief: Brief) -> Iterator[StaffScreen]:
        """Yield the lists of records that the config class guards; the forms below them belong to them."""
        for address in self.addresses() if self.guards is not None else ():
            guard = self.guard_of(address)
            node = self.controller(address.view) if guard is not None else None
            shows, sort, title = self.shown(brief, node)
            if guard is None or sort != "list":
                continue
            path = _brief_path(address.path)
            self.places["staff_screen", path] = (address.route.file, address.route.line)
            named = next((right for right in guard.rights if "." in right), "")
            access = self.right(brief, named) if named else "staff"
            yield StaffScreen(path, title, shows, access if access.startswith("may ") else "staff")

    def addresses(self) -> list[Address]:
        there = self.view.addresses_by_module.get(self.module.name)
        if there is None and self.module.urls:
            prefix = "/" if self.module.tells_paths else f"/{self.module.label.replace('_', '-')}/"
            there = list(self.view.addresses.walk(self.module.urls, prefix))
        return [one for one in there or [] if one.view and not one.route.regular]

    def is_endpoint(self, address: Address) -> bool:
        return ".endpoints." in address.view

    def page(self, brief: Brief, address: Address) -> Page | None:
        path = _brief_path(address.path)
        node = self.controller(address.view)
        shows, sort, title = self.shown(brief, node)
        if sort == "one" and path.endswith("/{pk: integer}"):
            pass
        elif shows and sort in ("list",) and "{" in path:
            shows, sort = "", ""
        try:
            page = make_page(path, title, "", shows, self.access(brief, node), **({"view": sort} if shows else {}))
        except SproutError:
            return None
        return page

    def controller(self, dotted: str) -> ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef | None:
        module, _, name = dotted.rpartition(".")
        path = self.view.project.file_of(module)
        tree = self.tree(path) if path is not None else None
        return (class_named(tree, name) or function_named(tree, name)) if tree is not None else None

    def shown(self, brief: Brief, node: ast.stmt | None) -> tuple[str, str, str]:
        """Return the record that a controller shows, in which view, and its title."""
        if not isinstance(node, ast.ClassDef):
            return "", "", ""
        bases = {spelled(base).rpartition(".")[2] for base in node.bases}
        sort = "list" if "ListView" in bases else "one" if "DetailView" in bases else ""
        sort = "form" if bases & {"CreateView", "UpdateView"} else sort
        model = title = ""
        for statement in node.body:
            if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                if statement.targets[0].id == "model":
                    model = spelled(statement.value).rpartition(".")[2]
                elif statement.targets[0].id == "extra_context" and isinstance(statement.value, ast.Dict):
                    for key, value in zip(statement.value.keys, statement.value.values, strict=True):
                        title = _text(value) if key is not None and _text(key) == "title" else title
        record = brief.record(model) if model and sort else None
        return (record.name.title, sort, title) if record else ("", "", title)

    def access(self, brief: Brief, node: ast.stmt | None) -> str:
        if isinstance(node, ast.ClassDef):
            guards = [spelled(base).rpartition(".")[2] for base in node.bases]
            for statement in node.body:
                if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                    if statement.targets[0].id == "permission_required" and _text(statement.value):
                        return self.right(brief, _text(statement.value))
            if "UserPassesTestMixin" in guards:
                return "staff" if "is_staff" in ast.unparse(node) else "signed in"
        elif isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            guards = []
            for decorator in node.decorator_list:
                call = decorator if isinstance(decorator, ast.Call) else None
                name = spelled(call.func if call else decorator).rpartition(".")[2]
                if name == "permission_required" and call and call.args and _text(call.args[0]):
                    return self.right(brief, _text(call.args[0]))
                guards.append(name)
        else:
            return "anyone"
        return next((_GUARDS[guard] for guard in guards if guard in _GUARDS), "anyone")

    def right(self, brief: Brief, permission: str) -> str:
        codename = permission.partition(".")[2]
        verb, _, model = codename.partition("_")
        record = next((one for one in brief.records if one.name.camel.lower() == model), None)
        if verb in _VERBS and record is not None:
            return f"may {_VERBS[verb]} {record.name.title}"
        named = next((one.name.title for one in brief.permissions if one.key == codename), "")
        return f"may {named}" if named else "signed in"

    @property
    def _own_commands(self) -> list[str]:
        """The commands that a kit's modules bring to be settled, and to load sample data."""
        facts = django(self.view.data)
        return [name.format(label=self.module.label) for name in (*facts.settle, *facts.samples)]

    # -- the rest --------------------------------------------------------------------------------------------------

    def commands(self) -> Iterator[Command]:
        for claim in commands_of(self.module):
            if claim.name in self._own_commands:
                continue
            tree = self.tree(claim.path)
            holder = class_named(tree, "Command") if tree is not None else None
            if tree is None or holder is None:
                continue
            command = Command(name_family(claim.name, what="command"), _summary(tree, holder))
            self.places["command", command.key] = (claim.path, holder.lineno)
            yield command._replace(lists="", positional=(), named=())

    def blocks(self) -> Iterator[Block]:
        for library in self.module.libraries:
            for name, line in library.blocks.items():
                if library.name.endswith("_menu") and name.endswith("_menu"):
                    continue
                self.places["block", name] = (library.path, line)
                yield Block(name_family(name, what="block"))

    def groups(self, brief: Brief) -> Iterator[Group]:
        """Read the groups of a ``groups.py`` as it is made here."""
        if not self.module.has("groups.py"):
            return
        path = self.module.folder / "groups.py"
        table = _assigned(self.tree(path), "GROUPS")
        try:
            said = ast.literal_eval(table) if table is not None else {}
            entries = [(str(name), list(entry["may"]), list(entry["includes"])) for name, entry in said.items()]
        except (ValueError, KeyError, TypeError, AttributeError):
            return
        for name, rights, includes in entries:
            may: dict[str, list[str]] = {}
            also: list[str] = []
            for right in rights:
                verb, _, model = right.partition("_")
                record = next((one for one in brief.records if one.name.camel.lower() == model), None)
                if verb in _VERBS and record is not None:
                    may.setdefault(record.name.title, []).append(_VERBS[verb])
                else:
                    also += [one.name.title for one in brief.permissions if one.key == right]
            family = name_family(name, what="group")
            self.places["group", family.snake] = (path, table.lineno if table is not None else 0)
            order = ("read", "create", "change", "delete")
            rights_said = tuple((key, tuple(v for v in order if v in verbs)) for key, verbs in may.items())
            yield Group(family, rights_said, tuple(also), tuple(includes))

    def menu(self, brief: Brief) -> Iterator[MenuEntry]:
        """Read the entries of a ``menu.py`` as it is made here."""
        if not self.module.has("menu.py"):
            return
        path = self.module.folder / "menu.py"
        table = _assigned(self.tree(path), "MENU")
        names = {address.name.rpartition(":")[2]: address.path for address in self.addresses()}
        pages = {page.path.rstrip("/") or "/": page.path for page in brief.pages}

        def entries(node: ast.expr | None, parent: str) -> Iterator[MenuEntry]:
            for number, one in enumerate(node.elts if isinstance(node, ast.List | ast.Tuple) else (), 1):
                if not isinstance(one, ast.Dict):
                    continue
                said = {_text(key): value for key, value in zip(one.keys, one.values, strict=True) if key is not None}
                title = _text(said.get("title"))
                address = names.get(_text(said.get("page")).rpartition(":")[2], "")
                entry = MenuEntry(
                    title,
                    pages.get(address.rstrip("/") or "/", "") if address else "",
                    parent,
                    _text(said.get("side")) or "site",
                    number * 10,
                )
                if title:
                    self.places["menu", entry.key] = (path, one.lineno)
                    yield entry
                    yield from entries(said.get("inside"), title)

        yield from entries(table, "")


def _brief_path(path: str) -> str:
    """Spell an address of the host as a brief does."""
    spelled_out = _PARAMETER.sub(
        lambda one: f"{{{one.group(2)}: {_CONVERTERS.get(one.group(1) or 'str', 'other')}}}", "/" + path.strip("/")
    )
    return spelled_out.replace(": text}", "}")


def _is_field(node: ast.stmt) -> bool:
    """True for a line of a model that says a field."""
    if not (isinstance(node, ast.Assign) and isinstance(node.value, ast.Call)):
        return False
    return spelled(node.value.func).endswith(("Field", "Key"))


def _derives(node: ast.ClassDef, models: set[str]) -> bool:
    """True for a class that derives from a model: by the name of its base, or from one that stands above it."""
    bases = [spelled(base) for base in node.bases]
    return any(base.endswith("Model") or base in models for base in bases)


def _has_table(node: ast.ClassDef) -> bool:
    without = {"abstract": True, "proxy": True, "managed": False}
    for meta in node.body:
        for statement in meta.body if isinstance(meta, ast.ClassDef) and meta.name == "Meta" else ():
            if isinstance(statement, ast.Assign) and isinstance(statement.value, ast.Constant):
                names = [target.id for target in statement.targets if isinstance(target, ast.Name)]
                if any(name in without and statement.value.value is without[name] for name in names):
                    return False
    return True


def _meta_value(node: ast.ClassDef, key: str) -> ast.expr | None:
    for meta in node.body:
        if isinstance(meta, ast.ClassDef) and meta.name == "Meta":
            for statement in meta.body:
                if isinstance(statement, ast.Assign) and any(
                    isinstance(target, ast.Name) and target.id == key for target in statement.targets
                ):
                    return statement.value
    return None


def _meta_text(node: ast.ClassDef, key: str) -> str:
    return _text(_meta_value(node, key))


def _meta_texts(node: ast.ClassDef, key: str) -> list[str]:
    value = _meta_value(node, key)
    return [_text(one) for one in value.elts if _text(one)] if isinstance(value, ast.List | ast.Tuple) else []


def _shown_as(node: ast.ClassDef, fields: list[Field]) -> str:
    for statement in node.body:
        if isinstance(statement, ast.FunctionDef) and statement.name == "__str__":
            for one in ast.walk(statement):
                if isinstance(one, ast.Attribute) and isinstance(one.value, ast.Name) and one.value.id == "self":
                    name = re.sub(r"^get_(\w+)_display$", r"\1", one.attr)
                    if any(field.name == name for field in fields):
                        return name
    return ""


def _text(node: ast.expr | None) -> str:
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    if (
        isinstance(node, ast.Call)
        and len(node.args) == 1
        and spelled(node.func).rpartition(".")[2]
        in (
            "_",
            "gettext",
            "gettext_lazy",
        )
    ):
        return _text(node.args[0])
    return ""


def _is_true(node: ast.expr | None) -> bool:
    return isinstance(node, ast.Constant) and node.value is True


def _number(node: ast.expr | None, otherwise: int) -> int:
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, int) else otherwise


def _choices(node: ast.expr | None) -> tuple[Choice, ...]:
    found = []
    for pair in node.elts if isinstance(node, ast.List | ast.Tuple) else ():
        if isinstance(pair, ast.List | ast.Tuple) and len(pair.elts) == 2 and _text(pair.elts[0]):
            found.append(Choice(_text(pair.elts[0]), _text(pair.elts[1]) or _text(pair.elts[0])))
    return tuple(found)


def _default(node: ast.expr | None, sort: str) -> str | None:
    if node is None:
        return None
    if isinstance(node, ast.Constant) and isinstance(node.value, bool):
        return "yes" if node.value else (None if sort == "yes/no" else "no")
    if isinstance(node, ast.Constant) and isinstance(node.value, str | int | float) and node.value != "":
        return str(node.value)
    if isinstance(node, ast.Call) and len(node.args) == 1 and _text(node.args[0]):
        return _text(node.args[0])  # Decimal("1.5"), date.fromisoformat("…")
    name = spelled(node) if isinstance(node, ast.Name | ast.Attribute) else ""
    return "now" if name.endswith("timezone.now") else "today" if name.endswith("date.today") else None


def _proven(field: Field) -> Field:
    """Return the field as the field grammar would read it back; raises WrongUse where it cannot say it."""
    read = parse_field(spell_field(field))
    if read != field:
        raise ValueError("the field grammar cannot say it")
    return read


def _summary(tree: ast.Module, holder: ast.ClassDef) -> str:
    for statement in holder.body:
        if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
            if statement.targets[0].id == "help" and _text(statement.value):
                return _text(statement.value).split("\n")[0]
    return (ast.get_docstring(tree) or "").split("\n")[0]


def _assigned(tree: ast.Module | None, name: str) -> ast.expr | None:
    for node in tree.body if tree is not None else ():
        if isinstance(node, ast.Assign) and any(isinstance(one, ast.Name) and one.id == name for one in node.targets):
            return node.value
    return None
