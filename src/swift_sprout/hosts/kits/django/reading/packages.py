"""What installed packages say of themselves: their files, and the labels of their apps."""

from __future__ import annotations

import ast
from typing import TYPE_CHECKING

from .code import class_named
from .entries import package_of

if TYPE_CHECKING:
    from pathlib import Path

    from ..view import HostView


def file_of_package(view: HostView, dotted: str) -> Path | None:
    """Return the file of a module that an installed package brings; None where the interpreter has none."""
    for library in view.interpreter.libraries if view.interpreter is not None else ():
        place = library.joinpath(*dotted.split("."))
        for path in (place / "__init__.py", place.with_name(f"{place.name}.py")):
            if path.is_file():
                return path
    return None


def label_of_package(view: HostView, entry: str) -> str:
    """Return the label of a listed app that an installed package brings.

    It is what the config class that the entry names says, else the last word of the package (Django 5.2); empty where
    the file of that class is not found.
    """
    module, _, name = entry.rpartition(".")
    names_class = name[:1].isupper()
    path = file_of_package(view, module) if names_class else None
    if names_class and path is None:
        return ""
    source = view.project.parse(path) if path is not None else None
    node = class_named(source.tree, name) if source is not None and source.tree is not None else None
    for statement in node.body if node is not None else ():
        if isinstance(statement, ast.Assign) and isinstance(statement.value, ast.Constant):
            if any(isinstance(target, ast.Name) and target.id == "label" for target in statement.targets):
                return str(statement.value.value)
    return package_of(entry).rpartition(".")[2]


def names_in_package(view: HostView, dotted: str) -> set[str] | None:
    """Return the names of the classes in a file of an installed package; None where it is not found."""
    path = file_of_package(view, dotted)
    source = view.project.parse(path) if path is not None else None
    if source is None or source.tree is None:
        return None
    return {node.name for node in ast.walk(source.tree) if isinstance(node, ast.ClassDef)}
