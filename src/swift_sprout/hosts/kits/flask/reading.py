"""What the files of a Flask site say of its modules: blueprints, views, templates, addresses; each file read once."""

from __future__ import annotations

import ast
import os
import re
from collections.abc import Callable, Iterator
from functools import cache, cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ....core.syntax import nodes_below
from ...python.sources import python_files
from ...python.undefined import Undefined, undefined_names
from .entry import file_of, source_roots
from .places import Places, is_part

if TYPE_CHECKING:
    from ....core.hostfacts import ModuleState
    from .application import Application
    from .host import FlaskHost

#  what may import a file by a name that is put together
_BY_NAME = ("import_module", "import_string", "walk_packages", "iter_modules", "__import__")


class View(NamedTuple):
    """A view of a blueprint: its function's name, file and line, its rules, and the templates that it draws."""

    name: str
    path: Path
    line: int
    rules: tuple[str, ...]
    templates: tuple[tuple[str, int], ...]


class CodeFile:
    """A Python file of a site: its tree, or the error by which it has none."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.text = ""
        self.tree: ast.Module | None = None
        self.error: SyntaxError | None = None
        try:
            content = path.read_bytes()
            self.text = content.decode("utf-8", "replace")
            self.tree = ast.parse(content)
        except SyntaxError as error:
            self.error = error
        except (OSError, ValueError, RecursionError, MemoryError) as error:
            self.error = SyntaxError(f"it cannot be read: {type(error).__name__}")

    @cached_property
    def nodes(self) -> tuple[ast.AST, ...]:
        """All that stands in it; nothing where it has no tree."""
        return tuple(nodes_below(self.tree)) if self.tree is not None else ()

    @cached_property
    def resolved(self) -> str:
        """Where it really lies, as the running application names it."""
        return os.path.realpath(self.path)


class SiteFiles:
    """The files of one site, for as long as one check takes."""

    def __init__(self, host: FlaskHost) -> None:
        self.root = host.root
        self.application: Application | None = host.application
        self.places: Places = host.places
        self.modules: dict[str, ModuleState] = {one.name: one for one in host.modules()}
        self.file_of: Callable[[str], Path | None] = cache(partial(file_of, self.root))
        self._read: dict[Path, CodeFile] = {}
        self._beside: dict[str, list[CodeFile]] = {}
        self._below: dict[str, list[CodeFile]] = {}
        self._views: dict[str, list[View]] = {}
        self._blueprints: dict[str, tuple[CodeFile, ast.Call] | None] = {}

    def read(self, path: Path) -> CodeFile:
        """Return a Python file of the site."""
        if path not in self._read:
            self._read[path] = CodeFile(path)
        return self._read[path]

    def code(self, module: str) -> list[CodeFile]:
        """Return the Python files that lie directly in a module's folder."""
        if module not in self._beside:
            folder = self.places.by_name[module].folder
            self._beside[module] = [one for one in self.code_below(module) if one.path.parent == folder]
        return self._beside[module]

    def code_below(self, module: str) -> list[CodeFile]:
        """Return all Python files of a module."""
        if module not in self._below:
            self._below[module] = [self.read(path) for path in self.places.by_name[module].all_code()]
        return self._below[module]

    def marker(self, module: str) -> CodeFile | None:
        """Return a module's package marker, which makes its blueprint, or None."""
        marker = self.places.by_name[module].marker
        return next((one for one in self.code(module) if one.path == marker), None)

    def made_in(self, module: str) -> tuple[CodeFile, ast.Call] | None:
        """Return the file of a module that makes its blueprint, and the call that does; None where none is found.

        The package marker comes first; the name that the blueprint is given there does not matter.
        """
        if module not in self._blueprints:
            self._blueprints[module] = self._find_blueprint(module)
        return self._blueprints[module]

    def _find_blueprint(self, module: str) -> tuple[CodeFile, ast.Call] | None:
        marker = self.places.by_name[module].marker
        files = sorted(self.code(module), key=lambda code: code.path != marker)
        for code in files:
            for node in code.tree.body if code.tree is not None else ():
                value = node.value if isinstance(node, ast.Assign | ast.AnnAssign) else None
                if isinstance(value, ast.Call) and ast.unparse(value.func).endswith("Blueprint"):
                    return code, value
        return None

    def blueprint(self, module: str) -> ast.Call | None:
        """Return the call that makes a module's blueprint, or None."""
        made = self.made_in(module)
        return made[1] if made is not None else None

    def may_make_one(self, module: str) -> bool:
        """True where a module may come by a blueprint, or do without one, in a way that reading does not follow."""
        for code in self.code(module):
            for node in code.nodes:
                if isinstance(node, ast.Call) and ast.unparse(node.func).endswith("Blueprint"):
                    return True
                if isinstance(node, ast.FunctionDef) and node.name in ("init_app", "register"):
                    return True
        return False

    def unloaded(self, module: str, loaded: frozenset[str]) -> Iterator[tuple[Path, int, str]]:
        """Yield what files declare of the module's blueprint that nothing has loaded: file, line, and what it is.

        loaded -- the files that the running application has loaded
        """
        place = self.places.by_name[module]
        for code in self.code_below(module):
            path = code.path
            inside = path.relative_to(place.folder).parts
            if code.resolved in loaded or "tests" in inside or path.name.startswith(("test_", "conftest")):
                continue
            shared = _imported_from_own(code, place.name)
            for node in code.tree.body if code.tree is not None else ():
                for decorator in node.decorator_list if isinstance(node, ast.FunctionDef) else ():
                    head, _, rest = ast.unparse(decorator).partition("(")[0].partition(".")
                    if head in shared and rest:
                        what = "commands" if "cli" in rest else "addresses" if rest in _ROUTING else f"{rest}"
                        yield path, node.lineno, what
                        break
                else:
                    continue
                break

    @cached_property
    def undefined(self) -> dict[str, list[Undefined]]:
        """The names that code of the site uses and nothing defines, by file."""
        return undefined_names(self.root)

    @cached_property
    def every(self) -> tuple[CodeFile, ...]:
        """The Python of the site, wherever in it."""
        return tuple(self.read(Path(place)) for place in python_files(self.root))

    @cached_property
    def imports_by_name(self) -> bool:
        """True where some file of the site may import another one by a name that is put together."""
        return any(imports_by_name(one.text) for one in self.every)

    @cached_property
    def imported(self) -> frozenset[str]:
        """Each word of the imports of the site: one of another package may be meant, for all we know."""
        return frozenset(word for one in self.every for word in _imported(one))

    @cached_property
    def by_blueprint(self) -> dict[str, list[str]]:
        """The modules by the names that they give their blueprints."""
        found: dict[str, list[str]] = {}
        for module in self.modules:
            found.setdefault(name_of(self.blueprint(module)), []).append(module)
        return found

    def views(self, module: str) -> list[View]:
        """Return the views that the files of a module declare."""
        if module not in self._views:
            self._views[module] = [view for one in self.code(module) if one.tree is not None for view in _views(one)]
        return self._views[module]

    @cached_property
    def templates(self) -> frozenset[str]:
        """The names of all templates that the site's packages bring."""
        return frozenset(
            path.relative_to(parent).as_posix()
            for base in source_roots(self.root)
            for pattern in ("templates", "*/templates", "*/*/templates", "*/*/*/templates")
            for parent in base.glob(pattern)
            for path in parent.rglob("*")
            if path.is_file()
        )

    @cached_property
    def prefixes(self) -> dict[str, str]:
        """The registered modules, each with the address under which its own stand."""
        known = self.application.by_module if self.application is not None else {}
        return {
            module: calls[-1].prefix or self._own_prefix(module)
            for module, calls in known.items()
            if module in self.modules
        }

    def _own_prefix(self, module: str) -> str:
        """Return the address that a blueprint gives itself."""
        call = self.blueprint(module)
        said = [key.value for key in call.keywords if key.arg == "url_prefix"] if call is not None else []
        return str(said[0].value) if said and isinstance(said[0], ast.Constant) and said[0].value else ""

    @cached_property
    def by_address(self) -> dict[str, list[str]]:
        """The registered modules by the whole addresses that they declare."""
        found: dict[str, list[str]] = {}
        for module in self.modules:
            for view in self.views(module) if module in self.prefixes else ():
                for rule in view.rules:
                    found.setdefault(self.prefixes[module] + rule, []).append(module)
        return found


_ROUTING = ("route", "get", "post", "put", "delete", "patch")


def imports_by_name(text: str) -> bool:
    """True for code that may import a file by a name that is put together."""
    return any(word in text for word in _BY_NAME)


def _imported(code: CodeFile) -> Iterator[str]:
    if code.tree is None:
        yield from re.findall(r"\w+", code.text)
    for node in code.nodes:
        if isinstance(node, ast.Import | ast.ImportFrom):
            names = [getattr(node, "module", None) or "", *(alias.name for alias in node.names)]
            yield from (word for name in names for word in name.split("."))


def _imported_from_own(code: CodeFile, module: str) -> frozenset[str]:
    """Return the names that a file imports from its own package."""
    names: set[str] = set()
    for node in code.nodes:
        if isinstance(node, ast.ImportFrom) and (node.level or is_part(node.module or "", module)):
            names |= {alias.asname or alias.name for alias in node.names}
    return frozenset(names)


def name_of(call: ast.Call | None) -> str:
    """Return the name that a call gives its blueprint; empty where it is no literal."""
    first = call.args[0] if call is not None and call.args else None
    return str(first.value) if isinstance(first, ast.Constant) else ""


def _views(code: CodeFile) -> Iterator[View]:
    for node in code.tree.body if code.tree is not None else ():
        if isinstance(node, ast.FunctionDef):
            rules = [rule for decorator in node.decorator_list for rule in _rules(decorator)]
            if rules:
                yield View(node.name, code.path, node.lineno, tuple(rules), tuple(_templates(node)))


def _rules(node: ast.expr) -> Iterator[str]:
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.args:
        if node.func.attr in _ROUTING:
            if isinstance(node.args[0], ast.Constant) and isinstance(node.args[0].value, str):
                yield node.args[0].value


def _templates(node: ast.AST) -> Iterator[tuple[str, int]]:
    for call in ast.walk(node):
        if isinstance(call, ast.Call) and isinstance(call.func, ast.Name) and call.func.id == "render_template":
            if call.args and isinstance(call.args[0], ast.Constant) and isinstance(call.args[0].value, str):
                yield call.args[0].value, call.lineno
