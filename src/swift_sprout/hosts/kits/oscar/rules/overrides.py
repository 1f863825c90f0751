"""Apps of the host that a module overrides: whether the host takes the module's classes, and can do without its own."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from .....core.nearest import misspelt, near_text
from .....core.plurals import plural_of, singular_of
from ...django.facts import django
from ...django.reading.entries import package_of
from .reading import config_node, host_app_folder, host_app_of

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination


def label(exam: Examination) -> Iterator[Finding]:
    """An override whose label is not that of the host's app: the host goes on with its own classes."""
    app = host_app_of(exam)
    node, path = config_node(exam)
    said = exam.module.config.values.get("label") if exam.module.config is not None else None
    if app and node is not None and said is not None and not app.startswith("dashboard."):
        wanted = app.rpartition(".")[2]
        if said[0] != wanted and wanted != "reviews":
            yield exam.find("registered.override-label", path, said[1], app=app, said=said[0], wanted=wanted)


def files(exam: Examination) -> Iterator[Finding]:
    """Files and classes of an override whose names the host's app does not know: nothing ever asks for them."""
    app = host_app_of(exam)
    folder = host_app_folder(exam.view, app) if app else None
    if folder is None:
        return
    known = {path.stem for path in folder.glob("*.py")}
    for source in exam.sources:
        if source.tree is None or source.path.parent != exam.module.folder or source.path.stem in ("apps", "__init__"):
            continue
        classes = [node for node in source.tree.body if isinstance(node, ast.ClassDef)]
        if source.path.stem not in known:
            match = misspelt(source.path.stem, known) or _plural(source.path.stem, known)
            if match and classes and not _imported(exam, source.path.stem):
                yield exam.find("registered.override-file", source.path, 0, app=app, near=f"{match}.py")
            continue
        theirs = classes_of(folder / source.path.name)
        for node in classes:
            match = misspelt(node.name, theirs) if node.name not in theirs else None
            if match and not _used(exam, node.name) and match not in {one_class.name for one_class in classes}:
                near = near_text(node.name, theirs)
                yield exam.find(
                    "registered.override-class", source.path, node.lineno, app=app, name=node.name, near=near
                )


@cache
def _own_models(path: Path) -> frozenset[str]:
    """Return the models that a file of the host makes of its abstract ones."""
    try:
        tree = ast.parse(path.read_text("utf-8"))
    except (OSError, SyntaxError, ValueError):
        return frozenset()
    return frozenset(
        node.name
        for node in ast.walk(tree)
        if isinstance(node, ast.ClassDef) and any("Abstract" in ast.unparse(base) for base in node.bases)
    )


@cache
def classes_of(path: Path) -> frozenset[str]:
    """Return the names of the classes that a file of the host writes; empty where it cannot be read."""
    try:
        tree = ast.parse(path.read_text("utf-8"))
    except (OSError, SyntaxError, ValueError):
        return frozenset()
    return frozenset(node.name for node in ast.walk(tree) if isinstance(node, ast.ClassDef))


def _imported(exam: Examination, stem: str) -> bool:
    return any(
        isinstance(node, ast.ImportFrom) and stem in (node.module or "").split(".")
        for source in exam.sources
        if source.tree is not None and source.path.stem != stem and source.mentions(stem)
        for node in ast.walk(source.tree)
    )


def _plural(stem: str, known: set[str]) -> str | None:
    """Return the file that another one of the host's is the plural of, or the other way round; None for none."""
    found = plural_of(stem), singular_of(stem)
    return next((name for name in found if name in known and name != stem), None)


def _used(exam: Examination, name: str) -> bool:
    """True when the top package that the module lies in names a class elsewhere than where it is written."""
    top = exam.module.folder
    while (top.parent / "__init__.py").exists():
        top = top.parent
    texts = (path.read_text("utf-8", "replace") for path in top.rglob("*.py"))
    return sum(len(re.findall(rf"\b{name}\b", text)) for text in texts) > 1


def models(exam: Examination) -> Iterator[Finding]:
    """An override without the host's models, or without the host's migrations of them."""
    app = host_app_of(exam)
    folder = host_app_folder(exam.view, app) if app else None
    if folder is None or not any((folder / "migrations").glob("0*.py")):
        return
    path = exam.module.folder / "models.py"
    host = f"{django(exam.view.data).host_apps}.{app}.models"
    source = exam.view.project.parse(path)
    text = source.source.text if source is not None and source.source is not None else ""
    bodies = [node for each in exam.sources if each.tree is not None for node in each.tree.body]
    written = {node.name for node in bodies if isinstance(node, ast.ClassDef)}
    absent = _own_models(folder / "models.py") - written
    if host not in text and absent and not exam.module.has("models/__init__.py"):
        place = path if path.is_file() else exam.module.folder
        yield exam.find("installed.override-models", place, 0, app=app, host=host)
    migrations = exam.module.folder / "migrations"
    init = migrations / "__init__.py"
    extended = init.is_file() and "__path__" in init.read_text("utf-8", "replace")
    theirs = {one_path.name for one_path in (folder / "migrations").glob("0*.py")}
    mine = {one_path.name for one_path in migrations.glob("0*.py")}
    begun = "0001_initial.py" in mine  # the host's were copied once, and the module's own follow them
    settings = exam.view.settings.plain("MIGRATION_MODULES", {}) if exam.view.settings else {}
    named = isinstance(settings, dict) and exam.module.label in settings
    if not extended and not named and not begun and theirs - mine:
        place = migrations if migrations.is_dir() else exam.module.folder
        yield exam.find("installed.override-migrations", place, 0, app=app, count=len(theirs - mine))


def addresses(exam: Examination) -> Iterator[Finding]:
    """An override whose table of addresses leaves out those of the host's app."""
    app = host_app_of(exam)
    folder = host_app_folder(exam.view, app) if app else None
    node, path = config_node(exam)
    methods = [one for one in node.body if isinstance(one, ast.FunctionDef)] if node is not None else []
    method = next((one for one in methods if one.name == "get_urls"), None)
    if folder is None or node is None or method is None or "super()" in ast.unparse(method):
        return
    theirs = _names_of_addresses((folder / "apps.py").read_text("utf-8", "replace"))
    absent = sorted(theirs - _names_of_addresses(path.read_text("utf-8", "replace")))
    if theirs and len(absent) == len(theirs):
        names = ", ".join(absent[:3]) + (" …" if len(absent) > 3 else "")
        yield exam.find("routed.override-lacks-addresses", path, method.lineno, config=node.name, app=app, names=names)


def _names_of_addresses(text: str) -> set[str]:
    return set(re.findall(r"\bname\s*=\s*[\"']([\w-]+)[\"']\s*[,)]", text))


def direct(exam: Examination) -> Iterator[Finding]:
    """Classes taken straight from an app of the host that is overridden on this host."""
    apps = f"{django(exam.view.data).host_apps}."
    own = host_app_of(exam)
    packages = {package_of(entry.value) for entry in exam.view.listed}
    over = {module.label: module for module in exam.view.modules if module.name in packages}
    for source in exam.sources:
        for node in ast.walk(source.tree) if source.tree is not None and source.mentions(apps) else ():
            if not isinstance(node, ast.ImportFrom) or not (node.module or "").startswith(apps):
                continue
            app, _, rest = (node.module or "").removeprefix(apps).partition(".")
            other = over.get(app)
            if other is None or app == own or rest in ("", "apps", "signals", "abstract_models", "exceptions"):
                continue
            what = "model" if rest == "models" else "class"
            yield exam.find(
                "compatible.overridden-import",
                source.path,
                node.lineno,
                app=app,
                other=other.name,
                name=node.names[0].name,
                getter=f'get_{what}("{app if what == "model" else f"{app}.{rest}"}", "{node.names[0].name}")',
            )


RULES = (label, files, models, addresses, direct)
