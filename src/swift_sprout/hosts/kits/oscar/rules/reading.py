"""What the rules of a shop read of a module: its config, its menu entries, its shipping methods, its shop data."""

from __future__ import annotations

import ast
import json
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from ...django.facts import django
from ...django.reading.code import class_named, spelled
from ...django.reading.overrides import overridden

if TYPE_CHECKING:
    from ...django.examining.examination import Examination
    from ...django.reading.addresses import Route
    from ...django.reading.project import Source
    from ...django.view import HostView

SHOP_CONFIGS = ("OscarConfig", "OscarDashboardConfig", "OscarConfigMixin")
METHOD_BASES = ("Base", "Free", "FixedPrice")


class MenuEntry(NamedTuple):
    """An entry for the dashboard's menu; ``has_access`` says that it tells by itself who sees it."""

    url_name: str
    has_label: bool
    has_access: bool
    path: Path
    line: int


class MethodClass(NamedTuple):
    """A shipping method: its class, its code (None where that is worked out), and where it stands."""

    name: str
    code: str | None
    path: Path
    line: int
    own_price: bool


def config_node(exam: Examination) -> tuple[ast.ClassDef | None, Path]:
    """Return the class of a module's config, and its file."""
    path = exam.module.folder / "apps.py"
    source = exam.view.project.parse(path)
    if source is None or source.tree is None or exam.module.config is None:
        return None, path
    return class_named(source.tree, exam.module.config.name), path


def is_shop_config(exam: Examination) -> bool:
    """True when a module's config class is one of the shop's own, or extends that of one of its apps."""
    bases = [base.rpartition(".")[2] for base in exam.module.config.bases] if exam.module.config else []
    return any(base in SHOP_CONFIGS for base in bases) or host_app_of(exam) != ""


def is_dashboard_config(exam: Examination) -> bool:
    """True when a module's config class is one for screens of the dashboard."""
    bases = [base.rpartition(".")[2] for base in exam.module.config.bases] if exam.module.config else []
    return any(base == "OscarDashboardConfig" or base.endswith("DashboardConfig") for base in bases)


def host_app_of(exam: Examination) -> str:
    """Return the app of the host, as ``partner`` or ``dashboard.orders``, that a module overrides; empty for none."""
    held = overridden(exam.view, exam.module)
    return held.app if held is not None else ""


def host_app_folder(view: HostView, app: str) -> Path | None:
    """Return where the host's own app lies, or None when that cannot be told."""
    interpreter = view.interpreter
    for library in interpreter.libraries if interpreter is not None else ():
        folder = library.joinpath(*django(view.data).host_apps.split("."), *app.split("."))
        if folder.is_dir():
            return folder
    return None


def own_routes(exam: Examination) -> list[Route]:
    """Return the routes of a module's own table of addresses, those of other tables that it includes left out."""
    conf = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    return [route for route in conf.routes if not route.includes] if conf is not None else []


def addresses_told(exam: Examination) -> bool:
    """True when reading tells all of a module's own table of addresses."""
    conf = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    return conf is not None and conf.sure


def namespace_of(exam: Examination) -> str:
    """Return the namespace of a module's addresses."""
    return (exam.module.config.text("namespace") if exam.module.config else "") or exam.module.label


def menu_entries(exam: Examination) -> Iterator[MenuEntry]:
    """Yield the entries for the dashboard's menu that a module's files write, and those of the settings for it."""
    mine = f"{namespace_of(exam)}:"
    files = exam.view.settings.files if exam.view.settings is not None else []
    of_host = [source for path in files if (source := exam.view.project.parse(path)) is not None]
    for source in [*exam.sources, *of_host]:
        for entry in _entries_in(source):
            if source not in of_host or entry.url_name.startswith(mine):
                yield entry


def _entries_in(source: Source) -> Iterator[MenuEntry]:
    for node in ast.walk(source.tree) if source.tree is not None and source.mentions("url_name") else ():
        if not isinstance(node, ast.Dict):
            continue
        keys = {key.value: value for key, value in zip(node.keys, node.values, strict=True) if _text(key)}  # type: ignore[union-attr]
        if "url_name" in keys or "children" in keys:
            name = _text(keys.get("url_name"))
            yield MenuEntry(name, "label" in keys, "access_fn" in keys, source.path, node.lineno)


def method_classes(exam: Examination) -> Iterator[MethodClass]:
    """Yield the shipping methods that a module's files write: classes over those of the host's own methods."""
    for source in exam.sources:
        if source.tree is None or not source.mentions("shipping.methods", "apps.shipping"):
            continue
        for node in source.tree.body:
            if not isinstance(node, ast.ClassDef):
                continue
            bases = [spelled(base).rpartition(".")[2] for base in node.bases]
            if not any(base in METHOD_BASES for base in bases):
                continue
            code: str | None = ""
            price = "Base" not in bases
            for statement in node.body:
                if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                    if statement.targets[0].id == "code":
                        code = _text(statement.value) if isinstance(statement.value, ast.Constant) else None
                elif isinstance(statement, ast.FunctionDef) and statement.name == "calculate":
                    price = True
            yield MethodClass(node.name, code, source.path, node.lineno, price)


def shop_data(exam: Examination) -> tuple[dict[str, Any] | None, Path]:
    """Return what a module's shop_data.json says, None where it has none that can be read, and its path."""
    path = exam.module.folder / "shop_data.json"
    try:
        data = json.loads(path.read_text("utf-8"))
    except (OSError, ValueError):
        return None, path
    return (data if isinstance(data, dict) else None), path


def line_with(path: Path, text: str) -> int:
    """Return the first line of a file that holds a text; 0 for none."""
    try:
        lines = path.read_text("utf-8", "replace").splitlines()
    except OSError:
        return 0
    return next((number for number, line in enumerate(lines, 1) if text in line), 0)


def _text(node: ast.expr | None) -> str:
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""
