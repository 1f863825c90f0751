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
