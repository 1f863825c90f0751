"""What expressions and classes of models say, in words."""

from __future__ import annotations

import ast
from collections.abc import Iterator

from ..code import spelled


def is_field(node: ast.stmt) -> bool:
    """True for a line of a model that says a field."""
    if not (isinstance(node, ast.Assign) and isinstance(node.value, ast.Call)):
        return False
    return spelled(node.value.func).endswith(("Field", "Key"))


def derives(node: ast.ClassDef, models: set[str]) -> bool:
    """True for a class that derives from a model: by the name of its base, from one of the module, or by its fields.

    models -- the names of the module's classes that are known to
    """
    bases = [spelled(base) for base in node.bases]
    if any(base.endswith("Model") or base.rpartition(".")[2] in models for base in bases):
        return True
    fields = [one for one in node.body if isinstance(one, ast.Assign) and is_field(one)]
    return bool(bases) and any(spelled(one.value.func).startswith("models.") for one in fields)  # type: ignore[attr-defined]


def has_table(node: ast.ClassDef) -> bool:
    """True for a class that has a table of its own."""
    without = {"abstract": True, "proxy": True, "managed": False}
    for meta in node.body:
        for statement in meta.body if isinstance(meta, ast.ClassDef) and meta.name == "Meta" else ():
            if isinstance(statement, ast.Assign) and isinstance(statement.value, ast.Constant):
                names = [target.id for target in statement.targets if isinstance(target, ast.Name)]
                if any(name in without and statement.value.value is without[name] for name in names):
                    return False
    return True


def meta_keys(node: ast.ClassDef) -> Iterator[tuple[int, str]]:
    """Yield the keys of a class's `Meta`, each with its line."""
    for meta in node.body:
        for statement in meta.body if isinstance(meta, ast.ClassDef) and meta.name == "Meta" else ():
            if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                yield statement.lineno, statement.targets[0].id


def meta_value(node: ast.ClassDef, key: str) -> ast.expr | None:
    """Return what a class's `Meta` says for a key; None where it says nothing."""
    for meta in node.body:
        if isinstance(meta, ast.ClassDef) and meta.name == "Meta":
            for statement in meta.body:
                if isinstance(statement, ast.Assign) and any(
                    isinstance(target, ast.Name) and target.id == key for target in statement.targets
                ):
                    return statement.value
    return None


def meta_text(node: ast.ClassDef, key: str) -> str:
    """Return a text of a class's `Meta`; empty where it says none."""
    return text_of(meta_value(node, key))


def meta_texts(node: ast.ClassDef, key: str) -> list[str]:
    """Return the texts of a list of a class's `Meta`."""
    value = meta_value(node, key)
    return [text_of(one) for one in value.elts if text_of(one)] if isinstance(value, ast.List | ast.Tuple) else []


def text_of(node: ast.expr | None) -> str:
    """Return the text that an expression is, also one to be translated; empty for all else."""
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
        return text_of(node.args[0])
    return ""


def is_true(node: ast.expr | None) -> bool:
    """True for the constant `True`."""
    return isinstance(node, ast.Constant) and node.value is True


def number_of(node: ast.expr | None, otherwise: int) -> int:
    """Return the number that an expression is, or another."""
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, int) else otherwise


def assigned(tree: ast.Module | None, name: str) -> ast.expr | None:
    """Return what is assigned to a name at the top of a file."""
    for node in tree.body if tree is not None else ():
        if isinstance(node, ast.Assign) and any(isinstance(one, ast.Name) and one.id == name for one in node.targets):
            return node.value
    return None
