"""What code asks of the host's own modules by ``module.name`` and they do not have."""

from __future__ import annotations

import ast
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from ...core.nearest import near_text
from .bindings import late_nodes, names_bound


class AbsentAttribute(NamedTuple):
    """A name that a module does not have: the line that asks for it, the module's file, and the nearest that is there.

    near -- half a sentence; empty for none
    late -- it is asked for when a function is called, not as the file is loaded
    """

    line: int
    module: str
    name: str
    file: Path
    near: str
    late: bool


def absent_attributes(
    nodes: Sequence[ast.AST],
    package: str,
    file_of: Callable[[str], Path | None],
    parse: Callable[[Path], ast.Module | None],
) -> Iterator[AbsentAttribute]:
    """Yield what a file asks of the host's own modules that it imports and that they do not bind, each name once.

    nodes   -- all nodes of the file's tree, the tree itself first
    package -- the dotted name of the package that the file lies in
    file_of -- returns the file that an import of a dotted name loads from the host's folders; None for none of them
    """
    imported = _modules_imported(nodes, package, file_of)
    if not imported:
        return
    held = {node.id for node in nodes if isinstance(node, ast.Name) and not isinstance(node.ctx, ast.Load)}
    held |= {node.arg for node in nodes if isinstance(node, ast.arg)}
    asked = [node for node in nodes if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name)]
    told: set[tuple[str, str]] = set()
    given = {(node.value.id, node.attr) for node in asked if not isinstance(node.ctx, ast.Load)}  # type: ignore[attr-defined]
    for node in asked:
        assert isinstance(node.value, ast.Name)
        module, key = node.value.id, (node.value.id, node.attr)
        if module not in imported or module in held or key in told | given or node.attr.startswith("__"):
            continue
        told.add(key)
        file = imported[module]
        other = parse(file)
        bound = names_bound(other) if other is not None else None
        if bound is None or node.attr in bound or _is_inside(file, node.attr):
            continue
        late = id(node) in late_nodes(nodes[0])
        yield AbsentAttribute(node.lineno, module, node.attr, file, near_text(node.attr, bound), late)


def lines_asking(tree: ast.Module, module: str, name: str) -> tuple[int, bool] | None:
    """Return the line that asks a module for a name, and whether when a function is called; None where with care.

    That is where the name may be absent and the code knows it: in ``try``, behind a condition that speaks of the
    module, for annotations only, or where something else is bound to the module's name.
    """
    nodes = list(ast.walk(tree))
    bound = [node.id for node in nodes if isinstance(node, ast.Name) and not isinstance(node.ctx, ast.Load)]
    bound += [node.arg for node in nodes if isinstance(node, ast.arg)]
    if module in bound:
        return None
    for node in nodes:
        if not isinstance(node, ast.Attribute) or node.attr != name or not isinstance(node.value, ast.Name):
            continue
        if node.value.id != module or not isinstance(node.ctx, ast.Load):
            continue
        if _is_with_care(nodes, node, module):
            return None
        return node.lineno, id(node) in late_nodes(tree)
    return None


def _is_with_care(nodes: Sequence[ast.AST], asked: ast.Attribute, module: str) -> bool:
    """True where code takes into account that a name may be absent: ``try``, or a condition about the module."""
    for node in nodes:
        inside = isinstance(node, ast.Try | ast.If | ast.IfExp) and any(one is asked for one in ast.walk(node))
        if inside and (
            isinstance(node, ast.Try) or any(_speaks_of(one, module) for one in ast.walk(node.test) if one is not asked)  # type: ignore[attr-defined]
        ):
            return True
    return False


def _speaks_of(node: ast.AST, module: str) -> bool:
    """True for a condition that asks which version there is, or whether a module has something."""
    words = {getattr(node, "id", ""), getattr(node, "attr", "")}
    return bool(words & {module, "TYPE_CHECKING", "hasattr"}) or any("version" in one.lower() for one in words)


def _modules_imported(nodes: Iterable[ast.AST], package: str, file_of: Callable[[str], Path | None]) -> dict[str, Path]:
    """Return the files of the host's own modules that a file imports, by the name that each has there."""
    found: dict[str, Path | None] = {}
    for node in nodes:
        if isinstance(node, ast.Import):
            for alias in node.names:
                if alias.asname or "." not in alias.name:
                    found[alias.asname or alias.name] = file_of(alias.name)
        elif isinstance(node, ast.ImportFrom):
            parts = package.split(".") if package else []
            above = parts[: len(parts) - node.level + 1] if node.level else []
            source = ".".join([*above, *([node.module] if node.module else [])])
            source_file = file_of(source) if source else None
            for alias in node.names:
                if source_file is not None and _may_bind(source_file, alias.name):
                    continue  # a name of the package's own, and no module of it
                found[alias.asname or alias.name] = file_of(f"{source}.{alias.name}" if source else alias.name)
    return {name: file for name, file in found.items() if file is not None}


def _may_bind(file: Path, name: str) -> bool:
    try:
        return name in file.read_text("utf-8", "replace")
    except OSError:
        return True


def _is_inside(file: Path, name: str) -> bool:
    """True for a module of a package: it is there as soon as anything has imported it."""
    below = file.parent / name
    return file.name == "__init__.py" and (below.is_dir() or below.with_suffix(".py").exists())
