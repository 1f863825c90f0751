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
    """The function ``create_app`` as its file says it: what it imports and registers."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.content = path.read_bytes()
        self.imports: dict[str, tuple[str, int]] = {}  # the name in the factory: package, line
        self.registered: list[tuple[str, int, bool, str]] = []  # package, line, reached, prefix
        self.returns: list[int] = []
        self.broken = ""
        try:
            tree = ast.parse(self.content)
        except SyntaxError as error:
            self.broken = f"line {error.lineno}: {error.msg}"
            return
        self.function = next(
            (node for node in tree.body if isinstance(node, ast.FunctionDef) and node.name == "create_app"), None
        )
        for node in ast.walk(tree):
            if isinstance(node, ast.ImportFrom) and node.module and node.level == 0:
                for alias in node.names:
                    self.imports[alias.asname or alias.name] = (node.module, node.lineno)
        for line in self.function.body if self.function is not None else ():
            for node in ast.walk(line):
                if isinstance(node, ast.Return):
                    self.returns.append(node.lineno)
                if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.args:
                    if node.func.attr == "register_blueprint" and isinstance(node.args[0], ast.Name):
                        package = self.imports.get(node.args[0].id, (node.args[0].id, 0))[0]
                        prefix = next((ast.unparse(key.value) for key in node.keywords if key.arg == "url_prefix"), "")
                        reached = not self.returns or node.lineno < self.returns[0]
                        self.registered.append((package, node.lineno, reached, prefix.strip("'\"")))


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
