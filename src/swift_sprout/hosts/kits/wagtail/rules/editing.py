"""How editors work on a module: hooks that do what their name says, and screens for its records."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from typing import TYPE_CHECKING, NamedTuple

from .....core.nearest import near_text
from .....core.parts.placing import block_of
from ...django.asking import last_place, said
from ...django.reading.code import meta_constant, spelled
from ...django.registration import brief_of
from ..composing import DASHBOARD
from ..facts import wagtail

if TYPE_CHECKING:
    from pathlib import Path

    from .....core.findings import Finding
    from ...django.examining.examination import Examination

#  lists of a screen that name fields of its model, each with the code of its cause
LISTS = {"list_display": "placed.column-unknown", "list_filter": "placed.filter-unknown"}


def hook_functions(exam: Examination) -> Iterator[Finding]:
    """Functions of the hooks file that are never hung up, or that give the host nothing to show."""
    own = wagtail(exam.view.data)
    for source in exam.sources:
        if source.tree is None or source.path.name != own.hooks_file:
            continue
        text = source.source.text if source.source is not None else ""
        for node in source.tree.body:
            if not isinstance(node, ast.FunctionDef):
                continue
            hung = [_hook_of(decorator) for decorator in node.decorator_list]
            if node.name in own.hooks and not any(hung) and text.count(node.name) == 1:
                yield exam.find("registered.hook-undecorated", source.path, node.lineno, name=node.name)
            name = next((hook for hook in hung if _is_asked(hook) and hook in own.hooks), "")
            if name and name not in own.hooks_without_answer and not _returns(node):
                yield exam.find(
                    "registered.hook-returns-nothing", source.path, node.lineno, function=node.name, name=name
                )


def _is_asked(hook: str) -> bool:
    """True for a hook whose answer the host takes: what is registered or inserted, and lists that are narrowed down."""
    return hook.startswith(("register_", "insert_")) or hook.endswith("_queryset")


def _hook_of(decorator: ast.expr) -> str:
    """Return the hook that a decorator hangs a function on; empty for other decorators."""
    if isinstance(decorator, ast.Call) and spelled(decorator.func).endswith("hooks.register") and decorator.args:
        first = decorator.args[0]
        return str(first.value) if isinstance(first, ast.Constant) else "?"
    return ""


def _returns(node: ast.FunctionDef) -> bool:
    return any(
        (isinstance(inner, ast.Return) and inner.value is not None) or isinstance(inner, ast.Yield | ast.Raise)
        for inner in ast.walk(node)
    )


SCREENS = ("SnippetViewSet", "ModelViewSet", "SnippetViewSetGroup", "ModelViewSetGroup", "ViewSetGroup")


class Screen(NamedTuple):
    """A class of screens for a record: its name, place, the record, and the words of its lists with their lines."""

    name: str
    path: Path
    line: int
    record: str
    lists: dict[str, list[tuple[str, int]]]


def screens(exam: Examination) -> Iterator[Screen]:
    """Yield the view sets of a module that name their record."""
    for source in exam.sources:
        if source.tree is None or not source.mentions("ViewSet") or not source.mentions("wagtail."):
            continue
        ours = _from_the_host(source.tree)
        for node in source.tree.body:
            if not isinstance(node, ast.ClassDef):
                continue
            if not any(spelled(base) in ours for base in node.bases):
                continue
            record, lists = "", {}
            for statement in node.body:
                if not isinstance(statement, ast.Assign) or not isinstance(statement.targets[0], ast.Name):
                    continue
                key = statement.targets[0].id
                if key == "model":
                    record = spelled(statement.value).rpartition(".")[2]
                elif key in LISTS and isinstance(statement.value, ast.List | ast.Tuple):
                    lists[key] = [
                        (item.value, item.lineno)
                        for item in statement.value.elts
                        if isinstance(item, ast.Constant) and isinstance(item.value, str)
                    ]
                elif key in ("panels", "edit_handler"):
                    lists["panels"] = [
                        (str(call.args[0].value), call.lineno)
                        for call in ast.walk(statement.value)
                        if isinstance(call, ast.Call)
                        and spelled(call.func).rpartition(".")[2] == "FieldPanel"
                        and call.args
                        and isinstance(call.args[0], ast.Constant)
                    ]
            yield Screen(node.name, source.path, node.lineno, record, lists)


def view_sets(exam: Examination) -> Iterator[Finding]:
    """Screens whose lists name what their record has not, and screens that are registered nowhere."""
    records = {node.name: node for _, node in exam.model_classes()}
    registered = _registered_names(exam)
    for screen in screens(exam):
        if screen.name not in registered and not _said_as_text(exam, screen.name):
            yield exam.find("registered.screens-unregistered", screen.path, screen.line, name=screen.name)
        node = records.get(screen.record)
        if node is None or not _plain(node):
            continue
        fields = _members(node)
        for key, said_names in screen.lists.items():
            code = LISTS.get(key, "placed.screen-panel-unknown")
            known = fields if key != "list_display" else fields | {"__str__", "pk"}
            for text, line in said_names:
                if text.split("__")[0] not in known and text != "__str__":
                    near = near_text(text, fields)
                    yield exam.find(
                        code, screen.path, line, owner=screen.name, name=text, record=screen.record, near=near
                    )


def record_panels(exam: Examination) -> Iterator[Finding]:
    """Panels of records' own classes that name no field of theirs."""
    for path, node in exam.model_classes():
        if not all(spelled(base).rpartition(".")[2] in _PLAIN for base in node.bases):
            continue
        fields = _members(node)
        for statement in node.body:
            target = statement.targets[0] if isinstance(statement, ast.Assign) else None
            if not isinstance(target, ast.Name) or target.id not in ("panels", "edit_handler"):
                continue
            for call in ast.walk(statement):
                if not isinstance(call, ast.Call) or spelled(call.func).rpartition(".")[2] != "FieldPanel":
                    continue
                name = call.args[0].value if call.args and isinstance(call.args[0], ast.Constant) else None
                if isinstance(name, str) and name not in fields:
                    values = {"owner": node.name, "record": node.name, "name": name, "near": near_text(name, fields)}
                    yield exam.find("placed.screen-panel-unknown", path, call.lineno, **values)


#  bases of records that bring no fields that a panel could name
_SETTINGS = ("BaseSiteSetting", "BaseGenericSetting")
_PLAIN = ("Model", *_SETTINGS, "Orderable", "ClusterableModel")


def settings_registered(exam: Examination) -> Iterator[Finding]:
    """Settings of a site that are never registered: the host does not know them."""
    found = (
        (source.path, node)
        for source in exam.sources
        for node in (source.tree.body if source.tree is not None and source.mentions(*_SETTINGS) else ())
        if isinstance(node, ast.ClassDef)
    )
    for path, node in found:
        if not any(spelled(base).rpartition(".")[2] in _SETTINGS for base in node.bases):
            continue
        decorated = any("register_setting" in ast.unparse(one) for one in node.decorator_list)
        if not decorated and not _registers(exam, node.name) and meta_constant(node, "abstract") is not True:
            yield exam.find("registered.setting-unregistered", path, node.lineno, name=node.name)


def _registers(exam: Examination, name: str) -> bool:
    """True where code of the module registers a setting, or one that it does not name."""
    for source in exam.sources:
        for node in ast.walk(source.tree) if source.tree is not None and source.mentions("register_setting") else ():
            if isinstance(node, ast.Call) and spelled(node.func).rpartition(".")[2] == "register_setting":
                given = [*node.args[:1], *(word.value for word in node.keywords if word.arg == "model")]
                if any(not isinstance(one, ast.Name) or one.id == name or one.id.islower() for one in given):
                    return True
    return False


def _registered_names(exam: Examination) -> set[str]:
    """Return the names that stand in calls that register, in lists of groups, and in functions that return them."""
    found: set[str] = set()
    for source in exam.sources:
        for node in ast.walk(source.tree) if source.tree is not None and source.mentions("ViewSet") else ():
            if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Load):
                found.add(node.id)
    return found


def _from_the_host(tree: ast.Module) -> set[str]:
    """Return the names of classes of screens that a file takes from the host."""
    return {
        alias.asname or alias.name
        for node in ast.walk(tree)
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("wagtail.")
        for alias in node.names
        if alias.name in SCREENS
    }


def _said_as_text(exam: Examination, name: str) -> bool:
    """True when a text of the module names a class by its dotted name, as settings do."""
    return any(source.mentions(f'.{name}"', f".{name}'") for source in exam.sources)


def _plain(node: ast.ClassDef) -> bool:
    """True for a model whose members all stand in its own class."""
    return all(spelled(base) in ("models.Model", "Model") for base in node.bases)


def _members(node: ast.ClassDef) -> set[str]:
    found = {"id"}
    for statement in node.body:
        if isinstance(statement, ast.Assign):
            found |= {target.id for target in statement.targets if isinstance(target, ast.Name)}
        elif isinstance(statement, ast.FunctionDef):
            found.add(statement.name)
    return found


def permissions(exam: Examination) -> Iterator[Finding]:
    """Rights of the module's own that no hook lets administrators give to groups."""
    own = wagtail(exam.view.data)
    hooks = exam.view.project.parse(exam.module.folder / own.hooks_file)
    if hooks is None or hooks.tree is None or hooks.mentions("register_permissions"):
        return
    for path, node in exam.model_classes():
        meta = next((inner for inner in node.body if isinstance(inner, ast.ClassDef) and inner.name == "Meta"), None)
        for statement in meta.body if meta is not None else ():
            if isinstance(statement, ast.Assign) and ast.unparse(statement.targets[0]) == "permissions":
                yield exam.find("permitted.rights-not-given", path, statement.lineno, record=node.name)


def _answer(exam: Examination, step: str) -> dict[str, object]:
    found: dict[str, object] = (exam.live.answers.get(step) or {}) if exam.live is not None else {}
    return found


def menu(exam: Examination) -> Iterator[Finding]:
    """An administration whose menu or front page cannot be drawn because of what the module hangs up."""
    for step in ("administration", "editors"):
        error = _answer(exam, step).get("error")
        place = last_place(error, exam.module.folder) if isinstance(error, dict) else None
        if place is not None and isinstance(error, dict):
            yield exam.find("placed.administration-broken", place[0], place[1], error=said(error))
            return


def let_in(exam: Examination) -> Iterator[Finding]:
    """Screens for editors that let in people without the record's rights, or turn away those who hold them."""
    told = _answer(exam, "editors").get("screens")
    for screen in told if isinstance(told, list) else ():
        people = screen["people"]
        code = ""
        if people["visitor"] or people["signed in"]:
            code = "permitted.screens-open"
        elif not people["holder"] and people["superuser"]:
            code = "permitted.holders-refused"
        if not code or screen["module"] != exam.module.name:
            continue
        for path, node in exam.model_classes():
            if node.name == screen["record"]:
                yield exam.find(code, path, node.lineno, record=screen["record"], right=screen["right"])


def panels(exam: Examination) -> Iterator[Finding]:
    """Panels of the module that no hook puts on the administration's front page."""
    drawn = _answer(exam, "administration").get("panels")
    if not isinstance(drawn, list):
        return
    brief = brief_of(exam.module)
    blocks = [block_of(brief, one) for one in brief.placements if one.place == DASHBOARD] if brief is not None else []
    wanted = {f"{block.name.camel}Panel" for block in blocks if block is not None}
    for source in exam.sources:
        for node in source.tree.body if source.tree is not None and source.mentions("Component") else ():
            if not isinstance(node, ast.ClassDef) or "Component" not in (ast.unparse(base) for base in node.bases):
                continue
            shown = f"{exam.dotted(source.place)}.{node.name}" in drawn
            used = sum(len(re.findall(rf"\b{node.name}\b", text)) for text in exam.view.drawing.texts) > 1
            if not shown and (node.name in wanted or not used):
                yield exam.find("placed.panel-not-shown", source.path, node.lineno, panel=node.name)


STATIC = (hook_functions, view_sets, permissions, record_panels, settings_registered)
LIVE = (menu, let_in, panels)
