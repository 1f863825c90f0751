"""What the code says that makes an application: whose blueprints it registers, and where another one goes."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

from .entry import Entry, absolute_import, file_of
from .places import Places

_FINDS_MODULES = frozenset({"import_module", "iter_modules", "walk_packages", "find_modules", "import_string"})


class Registered(NamedTuple):
    """A call that registers a blueprint.

    package     -- what the blueprint is imported from
    reached     -- False behind a return that nothing passes by
    prefix      -- the address that the call gives it
    conditional -- it is made only where a condition holds
    """

    package: str
    path: Path
    line: int
    reached: bool
    prefix: str
    conditional: bool = False


class Application:
    """The function or file that makes the application, and what it calls for that, as the files say it.

    registered -- each call that registers a blueprint, in the order of reading
    imports    -- by the name in the file that makes it: the package that it comes from, and the line
    handed_to  -- the modules with a function that is given the application, by which they may register themselves
    unsure     -- True where more may be registered than reading can tell
    returns    -- the lines on which the factory itself returns
    """

    def __init__(self, root: Path, entry: Entry) -> None:
        self.root = root
        self.entry = entry
        self.path = entry.builder
        self.content = entry.builder.read_bytes()
        self.registered: list[Registered] = []
        self.imports: dict[str, tuple[str, int]] = {}
        self.handed: list[str] = []
        self.unsure = False
        self.broken = ""
        self.returns: list[int] = []
        self.function: ast.FunctionDef | None = None
        self.trees: dict[Path, ast.Module] = {}
        try:
            tree = ast.parse(self.content)
        except SyntaxError as error:
            self.broken = f"line {error.lineno}: {error.msg}"
            return
        functions = [node for node in tree.body if isinstance(node, ast.FunctionDef)]
        self.function = next((node for node in functions if node.name == entry.factory), None)
        if self.function is not None:
            self.returns = [node.lineno for node in of_itself(self.function) if isinstance(node, ast.Return)]
        self._read(self.path, tree)
        if entry.file != self.path and (inner := _parsed(entry.file)) is not None:
            self._read(entry.file, inner)  # a server's file may register more

    @cached_property
    def places(self) -> Places:
        """The modules of the site."""
        return Places(self.root, self.entry, [one.package for one in self.registered])

    @cached_property
    def by_module(self) -> dict[str, list[Registered]]:
        """The calls that register blueprints, by the module whose they are."""
        found: dict[str, list[Registered]] = {}
        for one in self.registered:
            found.setdefault(self.places.owner(one.package), []).append(one)
        return found

    @cached_property
    def handed_to(self) -> set[str]:
        """The modules that are given the application."""
        return {owner for package in self.handed if (owner := self.places.owner(package))}

    def _read(self, path: Path, tree: ast.Module) -> None:
        """Read one file: what it registers, and what of the site it hands the application to."""
        if path in self.trees:
            return
        self.trees[path] = tree
        imports = imports_of(self.root, path, tree)
        if path == self.path:
            self.imports = imports
        below = {call for node in ast.walk(tree) if isinstance(node, ast.If) for call in ast.walk(node)}
        looped: set[ast.AST] = set()
        for node in ast.walk(tree):
            if isinstance(node, ast.For):
                looped |= self._loop(path, tree, node, imports)
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and node not in looped:
                self._call(path, node, imports, node in below)

    def _loop(self, path: Path, tree: ast.Module, node: ast.For, imports: dict[str, tuple[str, int]]) -> set[ast.AST]:
        """Read a loop over blueprints that are written out; returns the calls in it that are told by that."""
        calls = {
            one
            for one in ast.walk(node)
            if isinstance(one, ast.Call) and ast.unparse(one.func).endswith("register_blueprint") and one.args
        }
        listed = _written_out(tree, node.iter)
        target = node.target.elts[0] if isinstance(node.target, ast.Tuple) and node.target.elts else node.target
        told: set[ast.AST] = set()
        for call in calls if listed is not None else ():
            if not isinstance(target, ast.Name) or ast.unparse(call.args[0]) != target.id:
                continue
            pairs = [one.elts if isinstance(one, ast.Tuple) and one.elts else [one] for one in listed or ()]
            packages = [_package(pair[0], imports) for pair in pairs]
            if None in packages:
                continue
            told.add(call)
            given = next((ast.unparse(key.value) for key in call.keywords if key.arg == "url_prefix"), "")
            names = [ast.unparse(one) for one in node.target.elts] if isinstance(node.target, ast.Tuple) else []
            at = names.index(given) if given in names else -1
            for package, pair in zip(packages, pairs, strict=True):
                said = pair[at] if 0 < at < len(pair) else None
                prefix = str(said.value or "") if isinstance(said, ast.Constant) else ""
                self.registered.append(Registered(str(package), path, pair[0].lineno, True, prefix))
        return told

    def _call(self, path: Path, node: ast.Call, imports: dict[str, tuple[str, int]], conditional: bool) -> None:
        head = ast.unparse(node.func)
        if head.endswith("register_blueprint") and node.args:
            package = _package(node.args[0], imports)
            if package is None:
                if not self._is_made_here(path, node.args[0]):
                    self.unsure = True  # a blueprint that a list or a helper hands over
                return
            prefix = next((ast.unparse(key.value) for key in node.keywords if key.arg == "url_prefix"), "")
            reached = path != self.path or self._is_reached(node)
            self.registered.append(Registered(package, path, node.lineno, reached, prefix.strip("'\""), conditional))
        elif head.rpartition(".")[2] in _FINDS_MODULES:
            self.unsure = True
        elif _given(node) and head.partition(".")[0] in imports:
            self._hand_on(imports[head.partition(".")[0]][0])

    def _hand_on(self, package: str) -> None:
        """Follow the application into a function of the site that is given it."""
        path = file_of(self.root, package) or file_of(self.root, package.rpartition(".")[0])
        self.handed.append(package)
        if path is None or "Blueprint(" in path.read_text("utf-8", "replace"):
            return  # of a package, or of a module, which registers itself
        tree = _parsed(path)
        if tree is not None:
            self._read(path, tree)

    def _is_made_here(self, path: Path, node: ast.expr) -> bool:
        """True for a blueprint that the file makes itself: it is no module."""
        name = ast.unparse(node)
        return any(
            isinstance(one, ast.Assign)
            and isinstance(one.value, ast.Call)
            and ast.unparse(one.value.func).endswith("Blueprint")
            and any(ast.unparse(target) == name for target in one.targets)
            for one in ast.walk(self.trees[path])
        )

    def _is_reached(self, node: ast.Call) -> bool:
        """False for a line of the factory behind a return that nothing passes by."""
        function = self.function
        if function is None or not function.lineno < node.lineno <= (function.end_lineno or 0):
            return True
        certain = [one.lineno for one in function.body if isinstance(one, ast.Return)]
        return not certain or node.lineno < certain[0]


def imports_of(root: Path, path: Path, tree: ast.Module) -> dict[str, tuple[str, int]]:
    """Return what a file imports, anywhere in it: by the name there, the package that it comes from, and the line."""
    found: dict[str, tuple[str, int]] = {}
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom):
            module = absolute_import(root, path, node)
            for alias in node.names:
                inner = f"{module}.{alias.name}" if module else alias.name
                is_module = file_of(root, inner) is not None  # else a name of that module
                found[alias.asname or alias.name] = (inner if is_module else module, node.lineno)
        elif isinstance(node, ast.Import):
            for alias in node.names:
                found[alias.asname or alias.name.partition(".")[0]] = (alias.name, node.lineno)
    return found


def _package(node: ast.expr, imports: dict[str, tuple[str, int]]) -> str | None:
    """Return the package that a blueprint comes from; None where that is not imported."""
    text = ast.unparse(node).partition("(")[0]
    head = text.partition(".")[0]
    if not head.isidentifier() or head not in imports:
        return None
    package, _ = imports[head]
    deeper = text.split(".")
    return package if head == package.rpartition(".")[2] or len(deeper) < 3 else ".".join([package, *deeper[1:-1]])


def _given(node: ast.Call) -> bool:
    """True for a call that is given what may be the application."""
    named = [key.value for key in node.keywords if key.arg in ("app", "application")]
    return any(isinstance(one, ast.Name) for one in (*node.args[:1], *named))


def _written_out(tree: ast.Module, node: ast.expr) -> list[ast.expr] | None:
    """Return the elements of a list that is written out, there or under a name of the file."""
    if isinstance(node, ast.List | ast.Tuple | ast.Set):
        return node.elts
    if isinstance(node, ast.Name):
        for one in ast.walk(tree):
            if isinstance(one, ast.Assign) and any(ast.unparse(target) == node.id for target in one.targets):
                return _written_out(ast.Module([], []), one.value)
    return None


def _parsed(path: Path) -> ast.Module | None:
    try:
        return ast.parse(path.read_bytes())
    except (OSError, SyntaxError, ValueError):
        return None


def of_itself(function: ast.FunctionDef) -> Iterator[ast.AST]:
    """Yield what a function is made of, but for what stands in functions within it."""
    waiting: list[ast.AST] = list(function.body)
    while waiting:
        node = waiting.pop()
        yield node
        if not isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.Lambda | ast.ClassDef):
            waiting.extend(ast.iter_child_nodes(node))
