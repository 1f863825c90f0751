"""A Django project as its files tell it: entry script, settings module, import roots, parsed sources."""

from __future__ import annotations

import ast
import os
from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import Any, NamedTuple

from .....disk.guard import read_content
from .....edits.source import SourceText
from .paths import path_value

ENTRY_SCRIPT = "manage.py"
SETTINGS_VARIABLE = "DJANGO_SETTINGS_MODULE"
SKIPPED_FOLDERS = frozenset(
    {
        "node_modules",
        "__pycache__",
        "migrations",
        "templates",
        "static",
        "staticfiles",
        "media",
        "locale",
        "site-packages",
    }
)


class Broken(NamedTuple):
    """A source that does not parse: line and reason as Python gives them."""

    line: int
    reason: str


class Source:
    """A Python file of the host: its text and tree, or why it has none; ``place`` is its path, spelled."""

    def __init__(
        self, place: str, source: SourceText | None, tree: ast.Module | None, broken: Broken | None = None
    ) -> None:
        self.place = place
        self.source = source
        self.tree = tree
        self.broken = broken

    @cached_property
    def path(self) -> Path:
        """Its path; most files are only looked at, and never spoken of."""
        return Path(self.place)

    @property
    def name(self) -> str:
        """Its name in its folder."""
        return self.place.rpartition("/")[2]

    def mentions(self, *words: str) -> bool:
        """True when its text holds one of some words: a cheap question before a dear look at the tree."""
        if self.source is None:
            return False
        text = self.source.text
        return True in [word in text for word in words]  # asked very often: quicker than ``any``

    @property
    def text_length(self) -> int:
        """The length of its text, white space left out; 0 where it cannot be decoded."""
        return len(self.source.text.strip()) if self.source else 0


#  parsed files that are kept: of hosts with very many modules fewer, for there each is needed once, in copies
MOST_IN_MEMORY = 3500
MOST_OF_MANY = 200


class Project:
    """A Django project on disk; every file is read and parsed once, as long as there are not very many of them."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self.entry = root / ENTRY_SCRIPT
        self._sources: dict[str, Source | None] = {}
        self._files: dict[str, Path | None] = {}
        self._folders: dict[str, Path | None] = {}
        self._most = MOST_IN_MEMORY
        self._below = os.path.join(root, "")

    def parse(self, path: Path | str) -> Source | None:
        """Read and parse a Python file; None when there is no such file."""
        key = str(path)
        if key not in self._sources:
            if len(self._sources) >= self._most:
                self.forget()
            self._sources[key] = _read(key)
        return self._sources[key]

    def keep_few(self) -> None:
        """Keep few parsed files from now on."""
        self._most = MOST_OF_MANY
        self.forget()

    def forget(self, sources: Iterable[Source] | None = None) -> None:
        """Give back the memory of parsed files, all or some; one that is asked for again is read again."""
        from .code import imports_of, nodes_of

        if sources is None:
            self._sources.clear()
        for source in sources or ():
            self._sources.pop(source.place, None)
        nodes_of.cache_clear()
        imports_of.cache_clear()

    def relative(self, path: Path | str) -> str:
        """Spell a path from the host's root when it lies inside."""
        spelled = str(path)
        if spelled.startswith(self._below):
            return spelled[len(self._below) :]
        return "." if spelled == str(self.root) else spelled

    @cached_property
    def settings_module(self) -> str | None:
        """The settings module as the entry script sets it: the environment wins over its default, as it does there.

        None when the entry script does not say it in a literal.
        """
        assigned = self._entry_setting
        if assigned is not None and assigned[1]:
            return assigned[0]
        return os.environ.get(SETTINGS_VARIABLE) or (assigned[0] if assigned else None)

    @cached_property
    def _entry_setting(self) -> tuple[str, bool] | None:
        """The literal in the entry script and whether it is set even when the environment has a value."""
        source = self.parse(self.entry)
        if source is None or source.tree is None:
            return None
        for node in ast.walk(source.tree):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr == "setdefault":
                texts = [text_value(arg) for arg in node.args]
                if len(texts) == 2 and texts[0] == SETTINGS_VARIABLE and texts[1] is not None:
                    return texts[1], False
            if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Subscript):
                value = text_value(node.value)
                if text_value(node.targets[0].slice) == SETTINGS_VARIABLE and value is not None:
                    return value, True
        return None

    @cached_property
    def import_roots(self) -> list[Path]:
        """Folders of the host from which its code is imported: that of the entry script and those it adds."""
        roots = [self.root]
        files = [self.entry, *(p for p in [self.file_in(self.root, self.settings_module or "")] if p)]
        for path in files:
            source = self.parse(path)
            if source is None or source.tree is None:
                continue
            known = _paths_said(source.tree, path, {"BASE_DIR": self.root})
            for node in ast.walk(source.tree):
                for said in _added_to_path(node):
                    value = path_value(said, path, known)
                    added = Path(os.path.normpath(self.root / value)) if value is not None else None
                    if added is not None and added.is_dir() and added not in roots:
                        roots.append(added)
        return roots

    def file_of(self, dotted: str) -> Path | None:
        """Return the file that an import of a dotted name would load from the host's own folders, or None."""
        if dotted not in self._files:
            there = (self.file_in(root, dotted) for root in self.import_roots)
            self._files[dotted] = next((one for one in there if one is not None), None)
        return self._files[dotted]

    def defining(self, dotted: str, hops: int = 4) -> tuple[Path, ast.stmt] | None:
        """Return the file and the class or function of a dotted name, also where other files only pass it on."""
        module, _, name = dotted.rpartition(".")
        path = self.file_of(module)
        source = self.parse(path) if path is not None else None
        if path is None or source is None or source.tree is None:
            return None
        for node in source.tree.body:
            if isinstance(node, ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef) and node.name == name:
                return path, node
            if not isinstance(node, ast.ImportFrom) or not hops:
                continue
            package = module if path.name == "__init__.py" else module.rpartition(".")[0]
            for _ in range(node.level - 1):
                package = package.rpartition(".")[0]
            origin = ".".join(filter(None, [package if node.level else "", node.module or ""]))
            for alias in node.names:
                if (alias.asname or alias.name) == name or alias.name == "*":
                    found = self.defining(f"{origin}.{name if alias.name == '*' else alias.name}", hops - 1)
                    if found is not None:
                        return found
        return None

    @staticmethod
    def file_in(root: Path, dotted: str) -> Path | None:
        """Return the file of a dotted name below one folder, or None."""
        if not dotted:
            return None
        base = f"{root}/{dotted.replace('.', '/')}"
        for candidate in (f"{base}/__init__.py", f"{base}.py"):
            if os.path.isfile(candidate):
                return Path(candidate)
        return None

    def folder_of(self, dotted: str) -> Path | None:
        """Return the folder of a package (with or without a package marker) in the host's folders, or None."""
        if dotted not in self._folders:
            places = [f"{root}/{dotted.replace('.', '/')}" for root in self.import_roots] if dotted else []
            self._folders[dotted] = next((Path(place) for place in places if os.path.isdir(place)), None)
        return self._folders[dotted]


def text_value(node: ast.expr) -> str | None:
    """Return the text that an expression stands for, with what the environment says now; None where it says none."""
    if isinstance(node, ast.Constant):
        return node.value if isinstance(node.value, str) else None
    parts: list[str | None] = []
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
        parts = [text_value(node.left), text_value(node.right)]
    elif isinstance(node, ast.JoinedStr):
        parts = [text_value(one.value if isinstance(one, ast.FormattedValue) else one) for one in node.values]
    elif isinstance(node, ast.Call) and ast.unparse(node.func).removeprefix("os.") in ("environ.get", "getenv"):
        name, *default = [text_value(one) for one in node.args] or [None]
        parts = [os.environ.get(name or "", default[0] if default else None)]
    return "".join(part or "" for part in parts) if parts and None not in parts else None


def _paths_said(tree: ast.Module, file: Path, known: Mapping[str, Any]) -> dict[str, Any]:
    """Return the names that a file gives to paths, in the order in which it does."""
    found = dict(known)
    for node in ast.walk(tree):
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            value = path_value(node.value, file, found)
            if value is not None:
                found[node.targets[0].id] = value
    return found


def _added_to_path(node: ast.AST) -> Iterator[ast.expr]:
    """Yield what a piece of code puts among the folders that code is imported from."""
    if isinstance(node, ast.Call) and node.args:
        name = ast.unparse(node.func)
        if name in ("sys.path.insert", "sys.path.append"):
            yield node.args[-1]
        elif name in ("site.addsitedir", "addsitedir"):
            yield node.args[0]
        elif name == "sys.path.extend":
            yield from _items(node.args[0])
    elif isinstance(node, ast.AugAssign | ast.Assign):
        target = node.target if isinstance(node, ast.AugAssign) else node.targets[0]
        if ast.unparse(target).partition("[")[0] == "sys.path":
            yield from _items(node.value)


def _items(node: ast.expr) -> Iterator[ast.expr]:
    for inner in ast.walk(node):
        if isinstance(inner, ast.List | ast.Tuple):
            yield from (one for one in inner.elts if not isinstance(one, ast.Starred))


def _read(path: str) -> Source | None:
    try:
        content = read_content(path)
    except OSError:
        return None
    if not content:  # package markers, mostly
        return Source(path, SourceText(""), ast.Module([], []))
    try:
        source = SourceText.python(content)
        return Source(path, source, ast.parse(source.text))
    except SyntaxError as error:
        return Source(path, None, None, Broken(error.lineno or 1, error.msg))
    except (UnicodeDecodeError, ValueError) as error:
        return Source(path, None, None, Broken(1, str(error)))
    except (RecursionError, MemoryError):  # the parser's own words for it
        return Source(path, None, None, Broken(1, "it is nested too deeply"))
