"""Entries of the host's list of modules."""

from __future__ import annotations

import ast
from typing import TYPE_CHECKING

from .code import class_named

if TYPE_CHECKING:
    from .project import Project

APP_CONFIG = "django.apps"


def package_of(entry: str) -> str:
    """Return the package that an entry's own text names: itself, or that of the config class that it names."""
    package, dot, name = entry.rpartition(".")
    return package.removesuffix(".apps") if dot and name[:1].isupper() else entry


def app_of(project: Project, entry: str) -> str:
    """Return the package of the app that an entry of the host's list stands for, as the host finds it out.

    Where the entry names a config class, that is what the class says as its ``name``, itself or by the class that it
    derives from (Django 5.2, ``AppConfig.create``): the class may stand in another package than its app.
    """
    module, dot, name = entry.rpartition(".")
    if not dot or not name[:1].isupper():
        return entry
    path = project.file_of(module)
    source = project.parse(path) if path is not None else None
    tree = source.tree if source is not None else None
    node = class_named(tree, name) if tree is not None else None
    if tree is None or node is None:
        return package_of(entry)
    said = _name_in(node)
    if said is not None:
        #  in its usual place another name is a slip, which is told of the package that the class stands in
        return said if said and not module.endswith(".apps") else package_of(entry)
    for base in node.bases:
        origin = _imported_from(tree, base)
        if origin and origin.rpartition(".")[0] != APP_CONFIG and project.file_of(origin.rpartition(".")[0]) is None:
            return package_of(origin)
    return package_of(entry)


def _name_in(node: ast.ClassDef) -> str | None:
    """Return the name that a config class sets; empty for one that it works out, None where it sets none."""
    for statement in node.body:
        targets = statement.targets if isinstance(statement, ast.Assign) else []
        targets = [statement.target] if isinstance(statement, ast.AnnAssign) and statement.value else targets
        if any(isinstance(target, ast.Name) and target.id == "name" for target in targets):
            value = getattr(statement, "value", None)
            return value.value if isinstance(value, ast.Constant) and isinstance(value.value, str) else ""
    return None


def _imported_from(tree: ast.Module, base: ast.expr) -> str:
    """Return the whole name of a base class that a file imports; empty for one of its own."""
    head, _, rest = ast.unparse(base).partition(".")
    for node in tree.body:
        if isinstance(node, ast.ImportFrom) and node.module and not node.level:
            for alias in node.names:
                if (alias.asname or alias.name) == head:
                    return f"{node.module}.{alias.name}" + (f".{rest}" if rest else "")
    return ""
