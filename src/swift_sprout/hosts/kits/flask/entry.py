"""Where a Flask application is made: the file that servers load, and the file and function that make it.

Looked for are, in this order, what ``FLASK_APP`` says in ``.flaskenv`` or ``.env``, the names that the host's own
command looks for (``wsgi.py`` and ``app.py``, Flask 3.1), other files beside them, and packages with a factory.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

_FACTORIES = ("create_app", "make_app")
_OBJECTS = ("app", "application")
_SETTINGS = (".flaskenv", ".env")
_SAID = re.compile(r"\s*(?:export\s+)?FLASK_APP\s*=\s*[\"']?([\w./]+(?::\w+)?)")
_FIRST = ("wsgi.py", "app.py", "main.py", "application.py", "run.py", "server.py")
_MOST_STEPS = 4


class Entry(NamedTuple):
    """How an application is come by.

    said    -- what the host's command takes after ``--app``
    file    -- the file that servers load
    builder -- the file in which the application is made
    factory -- the function there that makes it; empty where the file itself does
    name    -- what is imported of the entry: the application or its factory
    loads   -- what servers load, where that is another file, which files alone do not lead on from; else empty
    """

    said: str
    file: Path
    builder: Path
    factory: str
    name: str
    loads: str = ""

    @property
    def imported_as(self) -> str:
        """What an import from the entry says, so that the application is called ``app`` there."""
        return self.name if self.gives_factory or self.name == "app" else f"{self.name} as app"

    @property
    def gives_factory(self) -> bool:
        """True where what the entry gives must be called first."""
        return bool(self.factory) and self.name == self.factory


def source_roots(root: Path) -> list[Path]:
    """Return the folders below which imports of a site begin."""
    inner = root / "src"
    return [root, inner] if inner.is_dir() and not (inner / "__init__.py").exists() else [root]


def dotted_of(root: Path, path: Path) -> str:
    """Return the name under which a file or package of a site is imported; empty for none of it."""
    for base in reversed(source_roots(root)):
        if path.is_relative_to(base):
            parts = list(path.relative_to(base).parts)
            parts = [*parts[:-1], parts[-1].removesuffix(".py")] if parts else []
            return ".".join(parts[:-1] if parts and parts[-1] == "__init__" else parts)
    return ""


def file_of(root: Path, dotted: str) -> Path | None:
    """Return the file that an import of a site loads; None for none of it."""
    for base in source_roots(root):
        below = base.joinpath(*dotted.split(".")) if dotted else base
        for path in (below / "__init__.py", below.with_suffix(".py")):
            if path.is_file():
                return path
    return None


def find_entry(root: Path) -> Entry | None:
    """Return how a site's application is come by; None where that cannot be told."""
    loads = ""
    for file, name, loaded in _candidates(root):
        found = _followed(root, file, name, 0)
        if found is not None:
            builder, factory, given = found
            said = dotted_of(root, file)
            if name or (given not in (*_FACTORIES, *_OBJECTS)):
                said = f"{said}:{given}"
            return Entry(said, file, builder, factory, given, loads)
        if not loads and loaded:  # servers load it all the same, and it may well fail
            loads = f"{dotted_of(root, file)}:{name}".rstrip(":")
    return None


def broken_entry(root: Path, entry: Entry | None) -> tuple[Path, SyntaxError] | None:
    """Return the file that servers load, and its error, where it cannot be parsed."""
    file = file_of(root, entry.loads.partition(":")[0]) if entry is not None and entry.loads else None
    if file is None:
        return None
    try:
        ast.parse(file.read_bytes())
    except SyntaxError as error:
        return file, error
    except (OSError, ValueError):
        pass
    return None


def makes_an_application(root: Path) -> bool:
    """True where code of a folder makes an application, or would but for an error; scripts may hold such words only."""
    if (root / _FIRST[0]).is_file() or any(entries_said(root)):
        return True
    return find_entry(root) is not None or any(_broken(file) for file, _, _ in _candidates(root))


def _broken(file: Path) -> bool:
    return tree_of(file) is None and b"Flask(" in file.read_bytes()


def entries_said(root: Path) -> Iterator[tuple[Path, int, str, Path | None]]:
    """Yield what the settings of the host's command name: where, the words, and the file; None where there is none."""
    for name in _SETTINGS:
        text = (root / name).read_text("utf-8", "replace") if (root / name).is_file() else ""
        for number, line in enumerate(text.splitlines(), 1):
            said = _SAID.match(line)
            if said is not None:
                module = said[1].partition(":")[0]
                file = root / module if module.endswith(".py") else file_of(root, module.replace("/", "."))
                yield root / name, number, said[1], file if file is not None and file.is_file() else None


def _candidates(root: Path) -> Iterator[tuple[Path, str, bool]]:
    """Yield the files that may be loaded, with the name that is said of each, and whether servers load it for sure."""
    for _, _, said, named in entries_said(root):
        if named is not None:
            yield named, said.partition(":")[2], True
    beside = sorted(
        (one for one in root.glob("*.py") if one.is_file()), key=lambda one: (one.name not in _FIRST, one.name)
    )
    yield from ((root / name, "", name == _FIRST[0]) for name in _FIRST if (root / name).is_file())
    yield from ((path, "", False) for path in beside if path.name not in _FIRST)
    for base in reversed(source_roots(root)):
        for package in sorted(base.glob("*/__init__.py")):
            yield package, "", False
            yield from ((package.parent / name, "", False) for name in _FIRST if (package.parent / name).is_file())


def _followed(root: Path, file: Path, wanted: str, steps: int) -> tuple[Path, str, str] | None:
    """Return the file that makes the application, its factory, and the name that a file gives it under."""
    tree = tree_of(file)
    if tree is None or steps > _MOST_STEPS:
        return None
    names: tuple[str, ...] = (wanted,) if wanted else (*_OBJECTS, *_FACTORIES)
    made = {name: node for node in tree.body for name in _assigned(node)}
    functions = {node.name: node for node in tree.body if isinstance(node, ast.FunctionDef)}
    imported = {
        alias.asname or alias.name: (absolute_import(root, file, node), alias.name)
        for node in ast.walk(tree)
        if isinstance(node, ast.ImportFrom)
        for alias in node.names
    }
    if not wanted:  # another name for it counts where it is the only one
        names += tuple(name for name, value in made.items() if _called(value) == "Flask" and name not in names)
    for name in names:
        called = _called(made[name]) if name in made else ""
        if called == "Flask":
            return file, "", name
        for given in (called, name):
            if given in functions and _makes_one(functions[given]):
                return file, given, name
            if given in imported and (given == name or called):
                below = file_of(root, imported[given][0])
                inner = file_of(root, f"{imported[given][0]}.{imported[given][1]}")
                for path in (below, inner):
                    found = _followed(root, path, imported[given][1], steps + 1) if path not in (None, file) else None
                    if found is not None:
                        return found[0], found[1], name
    return None


def tree_of(file: Path | None) -> ast.Module | None:
    """Return the syntax tree of a file; None where there is none."""
    try:
        return ast.parse(file.read_bytes()) if file is not None else None
    except (OSError, SyntaxError, ValueError):
        return None


def _assigned(node: ast.stmt) -> list[str]:
    targets = node.targets if isinstance(node, ast.Assign) else [node.target] if isinstance(node, ast.AnnAssign) else []
    return [target.id for target in targets if isinstance(target, ast.Name)]


def _called(node: ast.stmt) -> str:
    """Return the function whose answer a statement assigns."""
    value = node.value if isinstance(node, ast.Assign | ast.AnnAssign) else None
    return ast.unparse(value.func).rpartition(".")[2] if isinstance(value, ast.Call) else ""


def _makes_one(function: ast.FunctionDef) -> bool:
    """True for a function in which an application is made."""
    return (
        any(
            isinstance(node, ast.Call) and ast.unparse(node.func).rpartition(".")[2] in ("Flask", "APIFlask", "OpenAPI")
            for node in ast.walk(function)
        )
        or function.name in _FACTORIES
    )


def absolute_import(root: Path, file: Path, node: ast.ImportFrom) -> str:
    """Return the module that an import in a file names, from the top of the site."""
    if not node.level:
        return node.module or ""
    package = dotted_of(root, file.parent).split(".")
    above = package[: len(package) - node.level + 1]
    return ".".join([*above, *((node.module or "").split(".") if node.module else [])])
