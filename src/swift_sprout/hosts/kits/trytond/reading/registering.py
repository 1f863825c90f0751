"""What a module registers: in its manifest, or by a function that the host calls, as both are allowed."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from .code import CodeFile, spelled

if TYPE_CHECKING:
    from .inifile import IniFile


class Registered(NamedTuple):
    """A class that is registered: what it is registered as, its dotted name inside the module, and where that is said.

    depends -- the modules together with which alone it is registered
    module  -- the module for which it is registered, where the code says one; empty in a manifest
    """

    sort: str
    text: str
    path: Path
    line: int
    depends: tuple[str, ...] = ()
    module: str = ""


def in_manifest(manifest: IniFile, prefix: str) -> Iterator[Registered]:
    """Yield what a manifest registers; ``prefix`` is the dotted name of its folder inside the module."""
    for section, options in manifest.sections.items():
        words = section.split()
        if words[:1] == ["register"]:
            for sort, items in options.items():
                for item in items:
                    yield Registered(sort, prefix + item.text, manifest.path, item.line, tuple(words[1:]))


class ByFunction(NamedTuple):
    """What a function ``register`` registers, and its line; ``sure`` is False where its code works some of it out."""

    classes: list[Registered]
    sure: bool
    line: int


def by_function(file: CodeFile | None) -> ByFunction | None:
    """Return what the function ``register`` of a module's first file registers; None where there is no such function.

    Source: ``trytond.pool.Pool.register`` of 8.2: classes by position, ``module``, ``type_`` and ``depends`` by name.
    """
    body = file.tree.body if file is not None and file.tree is not None else []
    function = next((one for one in body if isinstance(one, ast.FunctionDef) and one.name == "register"), None)
    if file is None or function is None:
        return None
    found: list[Registered] = []
    sure = True
    calls = [node for node in ast.walk(function) if isinstance(node, ast.Call)]
    for call in calls:
        if spelled(call.func).rpartition(".")[2] != "register" or not spelled(call.func).startswith("Pool"):
            sure = sure and not isinstance(call.func, ast.Attribute)  # another module's function may register as well
            continue
        said = {key.arg: key.value for key in call.keywords}
        sort, module, depends = said.get("type_"), said.get("module"), said.get("depends")
        if not isinstance(sort, ast.Constant) or None in said:
            sure = False
            continue
        needs = depends.elts if isinstance(depends, (ast.List, ast.Tuple)) else []
        for one in call.args:
            dotted = _inside(file, spelled(one))
            if not dotted:
                sure = False
                continue
            found.append(
                Registered(
                    str(sort.value), dotted, file.path, one.lineno,
                    tuple(str(need.value) for need in needs if isinstance(need, ast.Constant)),
                    str(module.value) if isinstance(module, ast.Constant) else "",
                )
            )  # fmt: skip
    return ByFunction(found, sure, function.lineno)


def _inside(file: CodeFile, name: str) -> str:
    """Return the dotted name inside the module of what its first file calls so; empty for what comes from elsewhere."""
    first, _, rest = name.partition(".")
    source = file.imported.get(first)
    if source is None:
        return name if first in file.classes else ""
    module, _, imported = source.partition(":")
    if not module.startswith(".") or module.startswith(".."):
        return ""
    return ".".join(filter(None, (module.strip("."), imported, rest)))
