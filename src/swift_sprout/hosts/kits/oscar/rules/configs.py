"""The config class of a module: what it is to the shop, and whether its guards guard."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from .....core.nearest import near_text, slip_in
from ...django.reading.code import class_named, function_named, template_names
from ...django.reading.guards import ConfigGuards, config_guards
from ..facts import oscar
from .reading import (
    addresses_told,
    config_node,
    host_app_of,
    is_dashboard_config,
    is_shop_config,
    line_with,
    own_routes,
)

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination

#  what guards ask of a person beside rights (django-oscar 4.2, ``oscar.views.decorators``)
FLAGS = ("is_staff", "is_superuser", "is_active", "is_authenticated", "is_anonymous")
ONLY_IN_A_SHOP = ("permissions_map", "default_permissions", "namespace", "get_urls", "hidable_feature_name")


def kind(exam: Examination) -> Iterator[Finding]:
    """A config that says what only the shop's own configs know, and is none."""
    node, path = config_node(exam)
    if node is None or exam.module.config is None:
        return
    bases = {base.rpartition(".")[2] for base in exam.module.config.bases}
    said = [name for name in ONLY_IN_A_SHOP if name in exam.module.config.values or name in exam.module.config.methods]
    if said and bases <= {"AppConfig"}:
        yield exam.find("described.config-plain", path, node.lineno, config=node.name, said=said[0])


def taken(exam: Examination) -> Iterator[Finding]:
    """A listed package whose apps.py knows several config classes, because it imports the shop's: none is taken."""
    node, path = config_node(exam)
    entry = exam.view.entry_of(exam.module)
    if node is None or entry is None or entry.value != exam.module.name or not is_shop_config(exam):
        return
    if exam.module.config is None or exam.module.config.is_default or len(exam.module.configs) > 1:
        return
    source = exam.view.project.parse(path)
    assert source is not None and source.tree is not None
    imported = {
        alias.asname or alias.name
        for statement in source.tree.body
        if isinstance(statement, ast.ImportFrom)
        for alias in statement.names
        if alias.name.endswith("Config") and alias.name != "AppConfig"
    }
    if imported:
        yield exam.find("registered.config-not-taken", path, node.lineno, config=node.name, other=sorted(imported)[0])


def namespace(exam: Examination) -> Iterator[Finding]:
    """Addresses that are called with a namespace which the config does not give them."""
    node, path = config_node(exam)
    if node is None or exam.module.config is None or not is_shop_config(exam) or host_app_of(exam):
        return
    if "get_urls" not in exam.module.config.methods or exam.module.config.text("namespace"):
        return
    if "namespace" in exam.module.config.values or not exam.included:
        return
    wanted = f"{exam.module.label}:"
    for source in exam.sources:
        if source.mentions(f'"{wanted}', f"'{wanted}"):
            yield exam.find("described.namespace-absent", path, node.lineno, config=node.name, wanted=wanted)
            return


def guards(exam: Examination) -> Iterator[Finding]:
    """Guards that are not laid on, that name no address or no right, or that have a form the host misreads."""
    held = config_guards(exam.view.project, exam.module)
    node, path = config_node(exam)
    if held is None or node is None or host_app_of(exam) or not is_shop_config(exam):
        return
    if not _laid_on(node):
        yield exam.find("permitted.guards-not-laid-on", path, _line_of_urls(node), config=node.name)
    routes = own_routes(exam)
    names = {route.name for route in routes if route.name}
    for guard in held.every:
        if not guard.shaped:
            yield exam.find("permitted.guard-shape", path, guard.line, name=guard.name or "default_permissions")
        elif ":" in guard.name:
            plain = guard.name.rpartition(":")[2]
            yield exam.find("permitted.guard-with-namespace", path, guard.line, name=guard.name, plain=plain)
        elif guard.name and routes and guard.name not in names and addresses_told(exam):
            near = near_text(guard.name, names)
            yield exam.find("permitted.guard-name-unknown", path, guard.line, name=guard.name, near=near)
        for right in guard.named:
            label, dot, _ = right.partition(".")
            known = exam.view.permissions(label) if dot and label in exam.view.labels else None
            if not dot and slip_in(right, FLAGS) is not None and right not in FLAGS:
                known = set(FLAGS)
            if known is not None and right not in known:
                near = near_text(right, known)
                yield exam.find("permitted.guard-right-unknown", path, guard.line, right=right, near=near)


def rights(exam: Examination) -> Iterator[Finding]:
    """Rights that guards name and no record of the running host brings, where its files leave that open."""
    held = config_guards(exam.view.project, exam.module)
    brought = {
        entry["label"]: {right for model in entry["models"] for right in model["rights"]}
        for entry in (exam.live.registry_by_name.values() if exam.live is not None else ())
    }
    for guard in held.every if held is not None else ():
        for right in guard.named:
            label, dot, _ = right.partition(".")
            known = brought.get(label) if dot and exam.view.permissions(label) is None else None
            if known is not None and right not in known:
                path, near = config_node(exam)[1], near_text(right, known)
                yield exam.find("permitted.guard-right-unknown", path, guard.line, right=right, near=near)


def unguarded(exam: Examination) -> Iterator[Finding]:
    """Screens of the dashboard for which the config asks nothing."""
    node, path = config_node(exam)
    if node is None or not is_dashboard_config(exam) or host_app_of(exam):
        return
    held = config_guards(exam.view.project, exam.module) or ConfigGuards(path, {}, None, True, node.lineno)
    if not held.sure or held.otherwise is not None:
        return
    plain = {guard.name.rpartition(":")[2] for guard in held.by_name.values()}
    for route in own_routes(exam):
        if route.name not in plain and _is_screen(exam, route.view):
            near = near_text(route.name, [name for name in plain if name not in {r.name for r in own_routes(exam)}])
            if near:
                continue  # said of the guard whose name is misspelt
            yield exam.find(
                "permitted.screen-unguarded", route.file, route.line, name=route.name or route.pattern, config=node.name
            )


def _is_screen(exam: Examination, view: str) -> bool:
    """True when a controller draws a template that is laid into the dashboard's own."""
    module, _, name = view.rpartition(".")
    path = exam.view.project.file_of(module)
    source = exam.view.project.parse(path) if path is not None else None
    if source is None or source.tree is None:
        return False
    node = class_named(source.tree, name) or function_named(source.tree, name)
    for said in template_names(node) if node is not None else ():  # type: ignore[arg-type]
        template = exam.view.templates.named(said.text)
        while template is not None:
            above = template.extends or ""
            if above.startswith("oscar/dashboard/"):
                return True
            template = exam.view.templates.named(above) if above != template.name else None
    return False


def _laid_on(node: ast.ClassDef) -> bool:
    """True when what gives the addresses lays the guards on, or leaves that to the class below."""
    method = next((one for one in node.body if isinstance(one, ast.FunctionDef) and one.name == "get_urls"), None)
    text = ast.unparse(method) if method is not None else ""
    return method is None or "post_process_urls" in text or "super().get_urls" in text


def _line_of_urls(node: ast.ClassDef) -> int:
    return next(one.lineno for one in node.body if isinstance(one, ast.FunctionDef) and one.name == "get_urls")


def hidden(exam: Examination) -> Iterator[Finding]:
    """A module whose addresses are switched off by the shop's list of hidden features."""
    if exam.module.config is None or not is_shop_config(exam):
        return
    feature = exam.module.config.text("hidable_feature_name")
    key = oscar(exam.view.data).hidden
    features = exam.view.settings.plain(key, []) if exam.view.settings else []
    if feature and isinstance(features, list) and feature in features and exam.view.settings is not None:
        path = exam.view.settings.path or exam.module.folder
        yield exam.find("routed.feature-hidden", path, line_with(path, key), feature=feature, key=key)


RULES = (kind, taken, namespace, guards, unguarded, hidden)
