"""Names that code of a host uses and nothing defines: NameError as soon as that line runs."""

from __future__ import annotations

import ast
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

from ...core.nearest import near_text
from ...running.process import run
from .bindings import late_nodes, names_bound
from .sources import python_files

_LIMIT_SECONDS = 20
_AT_ONCE = 2_000
#  code that runs under both languages names these where the old one runs
_OF_PYTHON_2 = ("basestring", "buffer", "cmp", "file", "long", "raw_input", "reload", "unichr", "unicode", "xrange")
_TWO_LANGUAGES = re.compile(rb"version_info|PY2|PY3|PYTHON_?2|NameError|six")
_ALSO_THERE = frozenset({"_", "__file__", "__name__", "__path__"})  # "_" is what gettext installs for all


class Undefined(NamedTuple):
    """A name that nothing defines: its line, and half a sentence on the nearest one that is there; empty for none.

    late -- it is evaluated when a function is called, not as the file is loaded
    """

    line: int
    name: str
    near: str
    late: bool


def undefined_names(root: Path) -> dict[str, list[Undefined]]:
    """Return the undefined names of all Python below a folder, by file; what is marked ``noqa`` there is left out.

    Ruff finds them (F821). Annotations are left out: they are mostly not evaluated, and a host starts with the others.
    """
    files = python_files(root)
    told = [one for at in range(0, len(files), _AT_ONCE) for one in _said_of(files[at : at + _AT_ONCE], root)]
    found: dict[str, list[Undefined]] = {}
    by_file: dict[str, list[tuple[int, int]]] = {}
    for one in told:
        if one.get("code") == "F821":
            by_file.setdefault(one["filename"], []).append((one["location"]["row"], one["location"]["column"]))
    for file, places in by_file.items():
        names = list(_evaluated(Path(file), set(places)))
        if names:
            found[file] = names
    return found


def _said_of(files: list[str], root: Path) -> list[dict[str, Any]]:
    """Return what Ruff says of some files; named one by one, since it waits at pipes that it meets in a folder."""
    alone = ["--isolated", "--no-cache", "--quiet", "--exit-zero"]
    words = ["check", *alone, "--select", "F821", "--output-format", "json"]
    try:
        from ruff import find_ruff_bin  # a package with the program, and nothing else

        told = json.loads(run([find_ruff_bin(), *words, *files], root, _LIMIT_SECONDS).output or "[]")
    except (ImportError, OSError, ValueError):
        return []
    return told if isinstance(told, list) else []


def _evaluated(file: Path, places: set[tuple[int, int]]) -> Iterator[Undefined]:
    """Yield the names at some places (line and column, from 1) that are evaluated when the code runs, each once."""
    try:
        content = file.read_bytes()
        tree = ast.parse(content)
    except (OSError, ValueError, SyntaxError, RecursionError):
        return
    lines = content.decode("utf-8", "replace").splitlines()
    annotated = {id(inner) for node in ast.walk(tree) for one in _annotations(node) for inner in ast.walk(one)}
    bound = (names_bound(tree) or set()) | {node.arg for node in ast.walk(tree) if isinstance(node, ast.arg)}
    late = late_nodes(tree)
    told = set(_OF_PYTHON_2) if _TWO_LANGUAGES.search(content) else set()
    told |= _imported_by_classes(tree)
    for node in ast.walk(tree):
        if not isinstance(node, ast.Name) or id(node) in annotated or node.id in told | _ALSO_THERE:
            continue
        before = lines[node.lineno - 1].encode("utf-8")[: node.col_offset] if node.lineno <= len(lines) else b""
        if (node.lineno, len(before.decode("utf-8", "replace")) + 1) in places:
            told.add(node.id)
            yield Undefined(node.lineno, node.id, near_text(node.id, bound), id(node) in late)


def _imported_by_classes(tree: ast.AST) -> set[str]:
    """Return the names that the bodies of classes import, as under a condition: only they can tell where they hold."""
    waiting: list[ast.AST] = [node for node in ast.walk(tree) if isinstance(node, ast.ClassDef)]
    found: set[str] = set()
    while waiting:
        node = waiting.pop()
        if isinstance(node, ast.Import | ast.ImportFrom):
            found |= {(alias.asname or alias.name).partition(".")[0] for alias in node.names}
        functions = ast.FunctionDef | ast.AsyncFunctionDef | ast.Lambda
        waiting += [one for one in ast.iter_child_nodes(node) if not isinstance(one, functions)]
    return found


def _annotations(node: ast.AST) -> Iterator[ast.AST]:
    if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and node.returns is not None:
        yield node.returns
    if isinstance(node, ast.arg | ast.AnnAssign) and node.annotation is not None:
        yield node.annotation
