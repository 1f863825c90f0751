"""What Python files of a module say, beyond addresses and settings: imports, classes, guards, names of templates."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from functools import lru_cache
from typing import NamedTuple

from .....core.syntax import nodes_below


class Imported(NamedTuple):
    """One import of a file: the dotted module (relative ones with leading dots), the names, and the line.

    soft -- True when the import may fail or never happen: inside a try, a function or a type-checking block
    """

    module: str
    names: tuple[str, ...]
    line: int
    soft: bool


class Said(NamedTuple):
    """A text that code says in a telling place, with its line."""

    text: str
    line: int


@lru_cache(maxsize=20_000)
def nodes_of(tree: ast.AST) -> list[ast.AST]:
    """Return all nodes of a tree; several rules look at each file."""
    return nodes_below(tree)


@lru_cache(maxsize=20_000)
def imports_of(tree: ast.Module) -> list[Imported]:
    """Return every import of a file."""
    return list(_imports(tree.body, False))


def imports_below(body: list[ast.stmt]) -> list[Imported]:
    """Return the imports of the statements of a function or class."""
    return list(_imports(body, False))


_WITHOUT_STATEMENTS = (ast.Expr, ast.Assign, ast.AnnAssign, ast.Return, ast.AugAssign, ast.Raise, ast.Pass, ast.Assert)


def spelled(node: ast.expr) -> str:
    """Spell a name with dots; other expressions as Python writes them, which takes longer."""
    if isinstance(node, ast.Name):
        return node.id
    if isinstance(node, ast.Attribute):
        return f"{spelled(node.value)}.{node.attr}"
    return ast.unparse(node)


def _imports(body: list[ast.stmt], soft: bool) -> Iterator[Imported]:
    for node in body:
        if isinstance(node, ast.ImportFrom):
            module = "." * node.level + (node.module or "")
            yield Imported(module, tuple([alias.name for alias in node.names]), node.lineno, soft)
        elif isinstance(node, ast.Import):
            for alias in node.names:
                yield Imported(alias.name, (), node.lineno, soft)
        elif isinstance(node, ast.ClassDef):
            yield from _imports(node.body, soft)
        elif not isinstance(node, _WITHOUT_STATEMENTS):
            for inner in ("body", "orelse", "finalbody", "handlers", "cases"):
                below = getattr(node, inner, ())
                if isinstance(below, list):  # the body of a lambda, say, is none
                    yield from _imports(below, True)


#  the functions that are given the name of a template, and at which place of their arguments
_NAMES_TEMPLATE_AT = {"render": 1, "render_to_string": 0, "get_template": 0, "inclusion_tag": 0, "TemplateResponse": 1}


def template_names(tree: ast.Module) -> Iterator[Said]:
    """Yield the names of templates that controllers and blocks ask for."""
    for node in nodes_of(tree):
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            if node.targets[0].id == "template_name" and _text(node.value):
                yield Said(_text(node.value), node.lineno)
        elif isinstance(node, ast.Call):
            function = spelled(node.func).rsplit(".", 1)[-1]
            place = _NAMES_TEMPLATE_AT.get(function)
            if place is not None and len(node.args) > place and _text(node.args[place]):
                yield Said(_text(node.args[place]), node.args[place].lineno)
            for word in node.keywords:
                if word.arg == "template_name" and _text(word.value):
                    yield Said(_text(word.value), word.value.lineno)


def permissions_named(tree: ast.Module) -> Iterator[Said]:
    """Yield the permissions that guards name: decorators, mixins' attributes and questions to the user."""
    for node in nodes_of(tree):
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            if node.targets[0].id == "permission_required":
                yield from _texts(node.value)
        elif isinstance(node, ast.Call):
            function = spelled(node.func).rsplit(".", 1)[-1]
            if function in ("permission_required", "has_perm", "has_perms") and node.args:
                yield from _texts(node.args[0])


def permissions_declared(tree: ast.Module, label: str) -> set[str]:
    """Return the permissions that a models file brings: the host's four for each model, and those in Meta."""
    found: set[str] = set()
    for node in tree.body:
        if not isinstance(node, ast.ClassDef):
            continue
        verbs = ["add", "change", "delete", "view"]
        for meta in node.body:
            if not (isinstance(meta, ast.ClassDef) and meta.name == "Meta"):
                continue
            for statement in meta.body:
                if not (isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name)):
                    continue
                if statement.targets[0].id == "default_permissions":
                    verbs = [said.text for said in _texts(statement.value)]
                elif statement.targets[0].id == "permissions" and isinstance(statement.value, ast.List | ast.Tuple):
                    for pair in statement.value.elts:
                        if isinstance(pair, ast.List | ast.Tuple) and pair.elts and _text(pair.elts[0]):
                            found.add(f"{label}.{_text(pair.elts[0])}")
        found |= {f"{label}.{verb}_{node.name.lower()}" for verb in verbs}
    return found


def permissions_told(tree: ast.Module) -> bool:
    """False when a class of a models file may have permissions that its text does not spell.

    They may be worked out, or come from a base or a record that stands elsewhere.
    """
    if any(isinstance(node, ast.ImportFrom) and node.names[0].name == "*" for node in tree.body):
        return False
    for node in (one for one in tree.body if isinstance(one, ast.ClassDef)):
        for key in ("permissions", "default_permissions"):
            value = _meta_value(node, key)
            listed = value.elts if isinstance(value, ast.List | ast.Tuple) else None
            if value is not None and listed is None:
                return False
            for one in listed or ():
                named = one.elts[0] if isinstance(one, ast.List | ast.Tuple) and one.elts else one
                if not _text(named):
                    return False
    return _derives_plainly(tree)


def _derives_plainly(tree: ast.Module) -> bool:
    own = {node.name for node in tree.body if isinstance(node, ast.ClassDef)}
    bases = [spelled(base) for node in tree.body if isinstance(node, ast.ClassDef) for base in node.bases]
    foreign = [base for base in bases if base not in own and base not in ("models.Model", "Model")]
    return not any("Abstract" in base or base.endswith(("Model", "Base", "Mixin")) for base in foreign)


def class_named(tree: ast.Module, name: str) -> ast.ClassDef | None:
    """Return a class of a file by its name."""
    return next((node for node in tree.body if isinstance(node, ast.ClassDef) and node.name == name), None)


def function_named(tree: ast.Module, name: str) -> ast.FunctionDef | ast.AsyncFunctionDef | None:
    """Return a function of a file by its name."""
    for node in tree.body:
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and node.name == name:
            return node
    return None


def meta_text(node: ast.ClassDef, key: str) -> Said | None:
    """Return a text that a model's Meta sets."""
    value = _meta_value(node, key)
    return Said(_text(value), value.lineno) if value is not None and _text(value) else None


def meta_constant(node: ast.ClassDef, key: str) -> object:
    """Return a constant that a model's Meta sets, or None."""
    value = _meta_value(node, key)
    return value.value if isinstance(value, ast.Constant) else None


def _meta_value(node: ast.ClassDef, key: str) -> ast.expr | None:
    for meta in node.body:
        for statement in meta.body if isinstance(meta, ast.ClassDef) and meta.name == "Meta" else ():
            if isinstance(statement, ast.Assign):
                targets, value = statement.targets, statement.value
            elif isinstance(statement, ast.AnnAssign) and statement.value is not None:
                targets, value = [statement.target], statement.value
            else:
                continue
            if any(isinstance(target, ast.Name) and target.id == key for target in targets):
                return value
    return None


def relative_to(module: str, package: str) -> str:
    """Spell a relative import as a dotted name; ``package`` is the dotted package of the file in which it stands."""
    if not module.startswith("."):
        return module
    dots = len(module) - len(module.lstrip("."))
    parts = package.split(".")
    kept = parts[: len(parts) - dots + 1]
    return ".".join([*kept, *filter(None, module.lstrip(".").split("."))])


def _text(node: ast.expr) -> str:
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""


def _texts(node: ast.expr) -> Iterator[Said]:
    if _text(node):
        yield Said(_text(node), node.lineno)
    elif isinstance(node, ast.List | ast.Tuple | ast.Set):
        for element in node.elts:
            yield from _texts(element)
