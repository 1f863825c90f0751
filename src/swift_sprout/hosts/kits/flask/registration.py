"""Registering a blueprint: the application factory imports and registers it before it returns."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from ....core.changes import ChangeSet
from ....core.errors import Problem, Refused
from ....edits.carrying import NotCarried
from ....edits.python import insert_statement, remove_statement, statement_at
from ....edits.source import SourceText
from ...contract.exchange import Edit

if TYPE_CHECKING:
    from .host import FlaskHost


class Factory:
    """The function ``create_app`` as its file says it: what it imports and registers.

    imports    -- by the name in the file: the package that it comes from, and the line
    registered -- each call that registers a blueprint: its package, the line, whether it is reached, and the prefix
    handed_to  -- the packages with a function that is given the application, by which they may register themselves
    conditional -- the packages that are registered only where a condition holds
    unsure     -- True where more may be registered than reading can tell
    returns    -- the lines on which ``create_app`` itself returns
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.content = path.read_bytes()
        self.imports: dict[str, tuple[str, int]] = {}
        self.registered: list[tuple[str, int, bool, str]] = []
        self.handed_to: set[str] = set()
        self.conditional: set[str] = set()
        self.unsure = False
        self.returns: list[int] = []
        self.function: ast.FunctionDef | None = None
        self.broken = ""
        try:
            tree = ast.parse(self.content)
        except SyntaxError as error:
            self.broken = f"line {error.lineno}: {error.msg}"
            return
        self.function = next(
            (node for node in tree.body if isinstance(node, ast.FunctionDef) and node.name == "create_app"), None
        )
        self._read_imports(tree)
        if self.function is not None:
            self.returns = [node.lineno for node in _of_itself(self.function) if isinstance(node, ast.Return)]
        for node in ast.walk(tree):
            if isinstance(node, ast.Call):
                self._read_call(node)
        below = {
            call.lineno
            for node in ast.walk(tree)
            if isinstance(node, ast.If)
            for call in ast.walk(node)
            if isinstance(call, ast.Call)
        }
        self.conditional = {package.partition(".")[0] for package, line, *_ in self.registered if line in below}

    def _read_imports(self, tree: ast.Module) -> None:
        for node in ast.walk(tree):
            if isinstance(node, ast.ImportFrom):
                for alias in node.names:
                    name = alias.asname or alias.name
                    if node.module and node.level == 0:
                        self.imports[name] = (node.module, node.lineno)
                    else:  # of the factory's own package
                        self.imports[name] = (f"{self.path.parent.name}.{node.module or alias.name}", node.lineno)
            elif isinstance(node, ast.Import):
                for alias in node.names:
                    self.imports[alias.asname or alias.name.partition(".")[0]] = (alias.name, node.lineno)

    def _read_call(self, node: ast.Call) -> None:
        head = ast.unparse(node.func)
        if head.endswith("register_blueprint") and node.args:
            name = ast.unparse(node.args[0]).partition(".")[0].partition("(")[0]
            if not name.isidentifier() or name not in self.imports:
                self.unsure = True  # a blueprint that a loop, a list or a helper hands over
                return
            prefix = next((ast.unparse(key.value) for key in node.keywords if key.arg == "url_prefix"), "")
            self.registered.append((self.imports[name][0], node.lineno, self._is_reached(node), prefix.strip("'\"")))
        elif head.rpartition(".")[2] in _FINDS_MODULES:
            self.unsure = True
        elif node.args and isinstance(node.args[0], ast.Name) and head.partition(".")[0] in self.imports:
            package = self.imports[head.partition(".")[0]][0]
            self.handed_to.add(package.partition(".")[0])
            self.unsure |= package.partition(".")[0] == self.path.parent.name  # a helper of the factory's own

    def _is_reached(self, node: ast.Call) -> bool:
        """False for a line of ``create_app`` behind a return that nothing passes by."""
        function = self.function
        if function is None or not function.lineno < node.lineno <= (function.end_lineno or 0):
            return True
        certain = [one.lineno for one in function.body if isinstance(one, ast.Return)]
        return not certain or node.lineno < certain[0]


_FINDS_MODULES = frozenset({"import_module", "iter_modules", "walk_packages", "find_modules", "import_string"})


def _of_itself(function: ast.FunctionDef) -> Iterator[ast.AST]:
    """Yield what a function is made of, but for what stands in functions within it."""
    waiting: list[ast.AST] = list(function.body)
    while waiting:
        node = waiting.pop()
        yield node
        if not isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.Lambda | ast.ClassDef):
            waiting.extend(ast.iter_child_nodes(node))


def switch_on(host: FlaskHost, module: str, at: str | None) -> Edit:
    """Return the edit that imports and registers a blueprint before the factory's return."""
    factory = host.need_factory()
    edit = Edit(ChangeSet(f"enable {module}"))
    if any(package == module for package, *_ in factory.registered):
        edit.already.append(f"{host.relative(factory.path)} registers it")
        return edit
    if len(factory.returns) != 1:
        raise Refused(
            "factory-unclear",
            f"{host.relative(factory.path)}: create_app has {len(factory.returns)} returns; nothing was changed.",
            f"Write there: from {module} import blueprint as {module}; app.register_blueprint({module})",
        )
    line = factory.returns[0]
    prefix = f', url_prefix="{at.rstrip("/")}"' if at and at.strip("/") else ""
    with _editing(host, factory, module) as source:
        text = source.text
        returned = ast.unparse(statement_at(text, ast.Return, line)).removeprefix("return").strip() or "app"
        for added in (
            f"from {module} import blueprint as {module}",
            f"{returned}.register_blueprint({module}{prefix})",
        ):
            text = insert_statement(text, statement_at(text, ast.Return, line), added, after=False)
            line += 1
        edit.changes.add(host.relative(factory.path), factory.content, source.with_text(text).content())
    return edit


def switch_off(host: FlaskHost, module: str) -> Edit:
    """Return the edit that takes a blueprint's import and registration out."""
    factory = host.need_factory()
    edit = Edit(ChangeSet(f"disable {module}"))
    calls = {line for package, line, *_ in factory.registered if package == module}
    imports = {line for package, line in factory.imports.values() if package == module}
    with _editing(host, factory, module) as source:
        text = source.text
        for line in sorted(calls | imports, reverse=True):
            statement = statement_at(text, ast.Expr if line in calls else ast.ImportFrom, line)
            if isinstance(statement, ast.ImportFrom) and len(statement.names) != 1:
                raise NotCarried(line, "this line imports more than that")
            text = remove_statement(text, statement)
        edit.changes.add(host.relative(factory.path), factory.content, source.with_text(text).content())
    if not edit.changes:
        edit.already.append("the factory does not register it")
        edit.unsure = [Problem(host.relative(factory.path), "other code may register it", f"take out {module}")]
    return edit


@contextmanager
def _editing(host: FlaskHost, factory: Factory, module: str) -> Iterator[SourceText]:
    """Read the factory for an edit; what cannot be edited safely there is refused with its line."""
    place = host.relative(factory.path)
    try:
        yield SourceText.python(factory.content)
    except NotCarried as error:
        raise Refused(
            "factory-unclear",
            f"{place}:{error.line}: {error.reason}; nothing was changed.",
            f"Write there by hand what registers {module}, or take it out.",
        ) from None
    except (SyntaxError, UnicodeError) as error:
        raise Refused("factory-unclear", f"{place}: {error}; nothing was changed.", "Mend that file.") from None
