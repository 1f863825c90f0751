"""Modules that keep in a package what others keep in one file: ``models/`` in the place of ``models.py``.

What is generated for the file goes into a file of the package that has the name of the part, one level deeper, and the
package makes its names known.
"""

from __future__ import annotations

import ast
import re
from collections.abc import Callable, Container, Sequence
from pathlib import Path

from ...core.lines import python_lines
from ...edits.carrying import NotCarried, carry
from ...edits.python import (
    Text,
    extend_import,
    import_name,
    insert_item,
    insert_statement,
    quoted_like,
    spelled_as,
    without_idle_imports,
)
from ...edits.source import SourceText


def into_package(
    path: str, name: str, was: bytes, content: bytes, read: Callable[[str], bytes | None]
) -> dict[str, bytes]:
    """Carry a change of a generated file into the files of a package; see ``Host.into_package``.

    What changes goes to the file that holds it, what is new to one of its own: of the name of the part, or of its own.
    """
    stem = path.removesuffix(".py")
    package = f"{stem}/__init__.py"
    known = read(package) if stem != path and "/" not in stem else None
    if known is None:
        return {}
    old, new = Definitions(one_deeper(was)), Definitions(one_deeper(content))
    held = {file: read(file) or b"" for file in (f"{stem}/{module}.py" for module in _modules_of(known))}
    owner = {one: file for file, text in held.items() for one in Definitions(text).texts}
    wanted: dict[str, set[str]] = {}
    for one in {*old.texts, *new.texts}:
        if old.texts.get(one) != new.texts.get(one):
            if one in old.texts and one not in owner:
                raise NotCarried(0, f"which file of {stem}/ holds {one} cannot be told")
            wanted.setdefault(owner.get(one) or f"{stem}/{_file_name(name or one, stem)}.py", set()).add(one)
    result: dict[str, bytes] = {}
    for file, names in wanted.items():
        here = held.get(file) or read(file) or b""
        names |= set(Definitions(here).texts)
        result[file] = carry(file, here, old.only(names), new.only(names))
        known = with_exports(known, file, here, result[file])
    return {**result, package: known}


class Definitions:
    """The classes and functions at the top of a file, by name, and what stands around them."""

    def __init__(self, content: bytes) -> None:
        text = SourceText.python(content).text if content else ""
        lines = python_lines(text)
        self.texts: dict[str, str] = {}
        self._around: list[str] = list(lines)
        for node in ast.parse(text).body:
            if isinstance(node, ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
                first = min([node.lineno, *(one.lineno for one in node.decorator_list)]) - 1
                self.texts[node.name] = "".join(lines[first : node.end_lineno])
                self._around[first : node.end_lineno] = [""] * ((node.end_lineno or first) - first)

    def only(self, names: Container[str]) -> bytes:
        """Return the file with some of its classes and functions alone, and what those import."""
        kept = [text for name, text in self.texts.items() if name in names]
        whole = "".join(self._around).rstrip() + "\n\n\n" + "\n\n".join(kept)
        return without_idle_imports(whole).encode("utf-8") if kept else b""


def _file_name(name: str, stem: str) -> str:
    """Return the name of a file for what is new: that of a part, or of a class."""
    plain = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", re.sub(r"\W+", "_", name)).strip("_").lower()
    return plain if plain.isidentifier() else stem


def _modules_of(package: bytes) -> list[str]:
    """Return the files of a package that its ``__init__.py`` imports, by their names."""
    nodes = ast.parse(package).body
    return [node.module for node in nodes if isinstance(node, ast.ImportFrom) and node.level == 1 and node.module]


def into_file(
    place: str,
    was: bytes,
    content: bytes,
    read: Callable[[str], bytes | None],
    carry_into: Callable[[str, bytes, bytes, bytes], bytes],
) -> dict[str, bytes]:
    """Carry a change of a generated file at the top of a module into the file that the module has in its place."""
    for _ in range(place.count("/")):
        was, content = one_deeper(was), one_deeper(content)
    return {place: carry_into(place, read(place) or b"", was, content)}


def one_deeper(content: bytes) -> bytes:
    """Return Python source as it reads one folder deeper: imports of its own package go up one more."""
    source = SourceText.python(content)
    text = Text(source.text)
    places = [
        text.start(node) + len("from ")
        for node in ast.walk(ast.parse(source.text))
        if isinstance(node, ast.ImportFrom) and node.level
    ]
    result = source.text
    for place in sorted(places, reverse=True):
        result = f"{result[:place]}.{result[place:]}"
    return source.with_text(result).content()


def with_exports(package: bytes, file: str, before: bytes, after: bytes) -> bytes:
    """Return the ``__init__.py`` of a package that makes known what a file of it has come to define.

    file -- the file's name; before, after -- its contents. Raises NotCarried where the package cannot be edited safely.
    """
    fresh = sorted(_defined(after) - _defined(before))
    source = SourceText.python(package)
    text = _imported(source.text, Path(file).stem, fresh)
    for name in fresh:
        known = _names_listed(text)
        values = [str(one.value) for one in known.elts if isinstance(one, ast.Constant)] if known is not None else []
        if known is None or name in values:
            continue
        spelled = spelled_as(text, known.elts[-1]) if known.elts else '"'
        later = [at for at, value in enumerate(values) if value > name] if values == sorted(values) else []
        text = insert_item(text, known, quoted_like(spelled, name), before=later[0] if later else None)
    return source.with_text(text).content()


def _imported(text: str, module: str, names: Sequence[str]) -> str:
    """Import names from a file of the package itself, in order where the imports of its files stand in order."""
    body = ast.parse(text).body
    own = [node for node in body if isinstance(node, ast.ImportFrom) and node.level == 1 and node.module]
    same = next((node for node in own if node.module == module and node.names[0].name != "*"), None)
    if same is not None:
        for name in names:
            if name not in [alias.name for alias in same.names]:
                text = extend_import(text, same, name)
                same = next(node for node in ast.parse(text).body if node.lineno == same.lineno)  # type: ignore[assignment]
        return text
    if not names or any(node.module == module for node in own):
        return text
    line = f"from .{module} import {', '.join(names)}"
    modules = [str(node.module) for node in own]
    later = [node for node in own if str(node.module) > module] if modules == sorted(modules) else []
    if later:
        return insert_statement(text, later[0], line, after=False)
    behind = [node for node in body if isinstance(node, ast.Import | ast.ImportFrom)]
    if behind:
        return insert_statement(text, own[-1] if own else behind[-1], line)
    return import_name(text, f".{module}", ", ".join(names))


def _names_listed(text: str) -> ast.List | ast.Tuple | None:
    """Return the list ``__all__`` of a file, where it is written out."""
    for node in ast.parse(text).body:
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.List | ast.Tuple):
            if any(isinstance(target, ast.Name) and target.id == "__all__" for target in node.targets):
                return node.value
    return None


def _defined(content: bytes) -> set[str]:
    """Return the classes and functions that a file defines at its top, but for those of its own use."""
    sorts = ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef
    found = {node.name for node in ast.parse(content).body if isinstance(node, sorts)}
    return {name for name in found if not name.startswith("_")}
