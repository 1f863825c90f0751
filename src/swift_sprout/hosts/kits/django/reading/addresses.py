"""The address table as the files say it: from the root url configuration through every ``include``."""

from __future__ import annotations

import ast
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple, Protocol

from .....edits.python import Holder
from .code import spelled
from .project import Project


class PatternList(NamedTuple):
    """Patterns written out in a file: where an include may be put.

    node        -- a list, or the call that gives patterns the prefix of a language
    prefixed    -- what it holds is below another address
    conditional -- it is there in some cases only, such as while debugging
    """

    file: Path
    node: Holder
    prefixed: bool = False
    conditional: bool = False

    @property
    def localised(self) -> bool:
        """True when its addresses get the prefix of a language."""
        return isinstance(self.node, ast.Call)


class Route(NamedTuple):
    """One pattern.

    pattern  -- its text, None when it cannot be told; regular -- True for a regular expression
    includes -- the dotted name of the url configuration it includes; empty when it names a controller
    view     -- the dotted name of the controller; empty when it cannot be told
    bare     -- True when the controller is named as it is, not called or wrapped
    conditional -- it is there in some cases only, such as while debugging
    """

    pattern: str | None
    file: Path
    line: int
    regular: bool = False
    includes: str = ""
    view: str = ""
    name: str = ""
    node: ast.expr | None = None
    holder: PatternList | None = None
    bare: bool = False
    conditional: bool = False

    @property
    def catches_all(self) -> bool:
        """True when the pattern stands for every address, so that nothing behind it is reached."""
        if self.regular:
            return (self.pattern or "").strip("^$") in (".*", ".*/", "(.*)", ".+", "") and not self.includes
        return bool(self.pattern and self.pattern.startswith("<path:"))


class Configs(Protocol):
    """What the config classes of modules say of addresses."""

    def urls_of(self, label: str) -> str:
        """Return the url configuration of the module of a label; empty for none."""

    def namespace_of(self, dotted: str) -> str:
        """Return the namespace that a config class gives a url configuration; empty for none."""


class AddressFile:
    """One url configuration: its routes in order, its pattern lists, its namespace."""

    def __init__(self, path: Path, dotted: str) -> None:
        self.path = path
        self.dotted = dotted
        self.routes: list[Route] = []
        self.lists: list[PatternList] = []
        self.app_name = ""
        self.app_name_line = 0
        self.app_name_told = True
        self.unread_line = 0  # the first line that says what reading cannot tell

    @property
    def sure(self) -> bool:
        """True when reading tells all that it includes and answers."""
        return not self.unread_line


class Address(NamedTuple):
    """One address of the whole site: full path text, controller, name with namespace, and the route that ends it."""

    path: str
    view: str
    name: str
    route: Route
    trail: tuple[str, ...]


class Addresses:
    """Reads url configurations; every file once.

    configs  -- what config classes say of addresses; None where hosts let them say nothing
    in_short -- keep no nodes of what is read from now on: they are only there for edits, and take much memory
    """

    in_short = False

    def __init__(self, project: Project, configs: Configs | None = None) -> None:
        self.project = project
        self._configs = configs
        self._files: dict[str, AddressFile | None] = {}
        self._including: dict[str, dict[str, list[Route]]] = {}

    def file(self, dotted: str) -> AddressFile | None:
        """Return the url configuration of a dotted name, or None when it is none of the host's or does not parse."""
        if dotted not in self._files:
            path = self.project.file_of(dotted)
            source = self.project.parse(path) if path else None
            readable = path is not None and source is not None and source.tree is not None
            reader = _Reader(self.project, path, dotted, source.tree, self._taken_in) if readable else None  # type: ignore[arg-type, union-attr]
            conf = self._files[dotted] = reader.read() if reader is not None else None
            if conf is not None and self.in_short:
                conf.routes = [route._replace(node=None, holder=None) for route in conf.routes]
                conf.lists.clear()
            if conf is not None and not conf.app_name and self._configs is not None:
                conf.app_name = self._configs.namespace_of(dotted)
        return self._files[dotted]

    @property
    def by_files_alone(self) -> bool:
        """True when each url configuration is told by its file alone, and not by what other modules say as well."""
        return self._configs is None

    def know(self, dotted: str, conf: AddressFile | None) -> None:
        """Take a url configuration that was read elsewhere."""
        self._files.setdefault(dotted, conf)

    def _taken_in(self, label: str) -> str:
        """Return the url configuration of a module that is taken in by its label; empty where that cannot be told."""
        return self._configs.urls_of(label) if self._configs is not None else ""

    def walk(self, dotted: str, prefix: str = "/", trail: tuple[str, ...] = ()) -> Iterator[Address]:
        """Yield every address below a url configuration whose path can be told, in the order of asking."""
        conf = self.file(dotted)
        if conf is None or dotted in trail:
            return
        for route in conf.routes:
            if route.pattern is None:
                continue
            path = prefix + (f"({route.pattern})" if route.regular and route.pattern else route.pattern)
            if route.includes:
                yield from self.walk(route.includes, path, (*trail, dotted))
            else:
                name = f"{conf.app_name}:{route.name}" if conf.app_name and route.name else route.name
                yield Address(path, route.view, name, route, (*trail, dotted))

    def unread_below(self, dotted: str) -> tuple[Path, int] | None:
        """Return where a url configuration, or one that it includes, says what reading cannot tell; None: nowhere."""
        waiting, seen = [dotted], set()
        while waiting:
            name = waiting.pop(0)
            conf = self.file(name) if name not in seen else None
            seen.add(name)
            if conf is not None and conf.unread_line:
                return conf.path, conf.unread_line
            waiting += [route.includes for route in conf.routes if route.includes] if conf is not None else []
        return None

    def including(self, dotted: str, root: str) -> list[Route]:
        """Return the routes, anywhere below the root configuration, that include a url configuration."""
        if root not in self._including:
            self._including[root] = self._all_includes(root)
        return self._including[root].get(dotted, [])

    def _all_includes(self, root: str) -> dict[str, list[Route]]:
        found: dict[str, list[Route]] = {}
        waiting, seen = [root], set()
        while waiting:
            name = waiting.pop(0)
            conf = self.file(name) if name not in seen else None
            seen.add(name)
            for route in conf.routes if conf is not None else ():
                if route.includes:
                    found.setdefault(route.includes, []).append(route)
                    waiting.append(route.includes)
        return found


#  functions whose lists hold addresses of files, or of a package for developers, and of no module of the host
_OF_NO_MODULE = ("static", "staticfiles_urlpatterns", "debug_toolbar_urls")


def _config_label(node: ast.expr) -> str:
    """Return the label in ``apps.get_app_config("…").urls``, or in its first item; empty for all else."""
    if isinstance(node, ast.Subscript):
        node = node.value
    if isinstance(node, ast.Attribute) and node.attr == "urls" and isinstance(node.value, ast.Call):
        call = node.value
        if spelled(call.func).endswith("get_app_config") and call.args and isinstance(call.args[0], ast.Constant):
            return str(call.args[0].value)
    return ""


class _Reader:
    def __init__(
        self, project: Project, path: Path, dotted: str, tree: ast.Module, taken_in: Callable[[str], str]
    ) -> None:
        self.project = project
        self.taken_in = taken_in
        self.tree = tree
        self.package = dotted if path.name == "__init__.py" else dotted.rpartition(".")[0]
        self.result = AddressFile(path, dotted)
        self.names: dict[str, str] = {}
        self.lists: dict[str, list[Route]] = {}
        self.singles: dict[str, ast.Call] = {}
        self.conditional = False

    def read(self) -> AddressFile:
        for node in self.tree.body:
            if isinstance(node, ast.Import | ast.ImportFrom):
                self._import(node)
            elif isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
                self._assign(node.targets[0].id, node.value, False)
            elif isinstance(node, ast.AnnAssign) and node.value is not None and isinstance(node.target, ast.Name):
                self._assign(node.target.id, node.value, False)
            elif isinstance(node, ast.AugAssign) and isinstance(node.target, ast.Name):
                self._assign(node.target.id, node.value, True)
            elif isinstance(node, ast.Expr) and isinstance(node.value, ast.Call):
                self._call(node.value)
            elif isinstance(node, ast.If | ast.Try):
                self.conditional = True
                self._of_condition(node)
                self.conditional = False
            elif any(isinstance(one, ast.Name) and one.id == "urlpatterns" for one in ast.walk(node)):
                self._cannot_tell(node)  # a loop, or another statement that is not carried out here
        if "urlpatterns" not in self.lists:
            self._of_config_class()
        self.result.routes = self.lists.get("urlpatterns", [])
        return self.result

    def _of_condition(self, node: ast.If | ast.Try) -> None:
        for inner in ast.walk(node):
            if isinstance(inner, ast.Import | ast.ImportFrom):
                self._import(inner)
            elif isinstance(inner, ast.AugAssign) and isinstance(inner.target, ast.Name):
                self._assign(inner.target.id, inner.value, True)
            elif isinstance(inner, ast.Assign) and isinstance(inner.targets[0], ast.Name):
                name = inner.targets[0].id
                again = any(isinstance(one, ast.Name) and one.id == name for one in ast.walk(inner.value))
                if name in self.lists:
                    self._assign(name, inner.value, not again)
            elif isinstance(inner, ast.Call):
                self._call(inner)

    def _call(self, node: ast.Call) -> None:
        """Read what a list gets by its own methods."""
        function = node.func
        if any(isinstance(one, ast.Name) and one.id == "urlpatterns" for one in node.args):
            self._cannot_tell(node)  # what it is given to may add to it
        if not isinstance(function, ast.Attribute) or not isinstance(function.value, ast.Name) or not node.args:
            return
        held = self.lists.get(function.value.id)
        if held is None or function.attr not in ("append", "extend", "insert"):
            return
        found = self._routes(node.args[-1], False, False) if function.attr == "extend" else None
        found = found if function.attr == "extend" else self._one(node.args[-1], None)
        if found is None and function.value.id == "urlpatterns":
            self._cannot_tell(node)
        first = function.attr == "insert" and isinstance(node.args[0], ast.Constant) and node.args[0].value == 0
        self.lists[function.value.id] = [*(found or []), *held] if first else [*held, *(found or [])]

    def _of_config_class(self) -> None:
        """Read the addresses that a config class gives: the lists that its method for them writes out."""
        for node in ast.walk(self.tree):
            if isinstance(node, ast.FunctionDef) and node.name == "get_urls":
                for inner in ast.walk(node):
                    if isinstance(inner, ast.ImportFrom | ast.Import):
                        self._import(inner)
                for inner in ast.walk(node):
                    if isinstance(inner, ast.List):
                        found = [route for element in inner.elts for route in self._one(element, None)]
                        self.lists["urlpatterns"] = [*self.lists.get("urlpatterns", []), *found]

    def _import(self, node: ast.Import | ast.ImportFrom) -> None:
        for alias in node.names:
            if isinstance(node, ast.Import):
                self.names[alias.asname or alias.name.split(".")[0]] = (
                    alias.name if alias.asname else (alias.name.split(".")[0])
                )
            else:
                base = node.module or ""
                if node.level:
                    parts = self.package.split(".")
                    kept = parts[: len(parts) - node.level + 1]
                    base = ".".join([*kept, *([node.module] if node.module else [])])
                self.names[alias.asname or alias.name] = f"{base}.{alias.name}" if base else alias.name

    def _assign(self, name: str, value: ast.expr, more: bool) -> None:
        if name == "app_name" and isinstance(value, ast.Constant):
            self.result.app_name = str(value.value)
            self.result.app_name_line = value.lineno
            return
        if name == "app_name":
            self.result.app_name_told = False
            return
        if isinstance(value, ast.Call) and not more:
            self.singles[name] = value
        routes = self._routes(value, name == "urlpatterns", False)
        if routes is not None:
            self.lists[name] = [*(self.lists.get(name, []) if more else []), *routes]
        elif name == "urlpatterns":
            self._cannot_tell(value)

    def _cannot_tell(self, node: ast.expr | ast.stmt) -> None:
        self.result.unread_line = self.result.unread_line or node.lineno

    def _routes(self, node: ast.expr, outer: bool, prefixed: bool) -> list[Route] | None:
        if isinstance(node, ast.List | ast.Tuple):
            holder = PatternList(self.result.path, node, prefixed, self.conditional)
            if outer:
                self.result.lists.append(holder)
            routes: list[Route] = []
            for element in node.elts:
                if isinstance(element, ast.Starred):
                    more = self._routes(element.value, outer, prefixed)
                    if more is None:
                        self._cannot_tell(element)
                    routes += more or []
                else:
                    routes += self._one(element, holder)
            return routes
        if isinstance(node, ast.Name):
            return self.lists.get(node.id)
        if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
            left, right = self._routes(node.left, outer, prefixed), self._routes(node.right, outer, prefixed)
            if outer and (left is None or right is None):
                self._cannot_tell(node)
            return None if left is None and right is None else [*(left or []), *(right or [])]
        if isinstance(node, ast.Call) and spelled(node.func).rpartition(".")[2] in _OF_NO_MODULE:
            return []
        if isinstance(node, ast.Call) and spelled(node.func).endswith("i18n_patterns"):
            holder = PatternList(self.result.path, node, prefixed, self.conditional)
            if outer:
                self.result.lists.append(holder)
            return [route for element in node.args for route in self._one(element, holder)]
        return None

    def _one(self, node: ast.expr, holder: PatternList | None) -> list[Route]:
        if isinstance(node, ast.Name) and node.id in self.singles:
            node = self.singles[node.id]
        if not isinstance(node, ast.Call):
            self._cannot_tell(node)
            return []
        function = self.names.get(spelled(node.func), spelled(node.func)).rsplit(".", 1)[-1]
        said = node.args[:1] or [word.value for word in node.keywords if word.arg in ("route", "regex")]
        if function not in ("path", "re_path", "url") or not said:
            self._cannot_tell(node)
            return []
        first = said[0]
        pattern = first.value if isinstance(first, ast.Constant) and isinstance(first.value, str) else None
        if isinstance(first, ast.Call) and first.args and isinstance(first.args[0], ast.Constant):
            pattern = str(first.args[0].value)
        name = next(
            (
                str(word.value.value)
                for word in node.keywords
                if word.arg == "name" and isinstance(word.value, ast.Constant)
            ),
            "",
        )
        target = (
            node.args[1]
            if len(node.args) > 1
            else next((word.value for word in node.keywords if word.arg == "view"), None)
        )
        base: dict[str, object] = {
            "pattern": pattern,
            "file": self.result.path,
            "line": node.lineno,
            "regular": function != "path",
            "name": name,
            "node": node,
            "holder": holder,
            "conditional": self.conditional,
        }
        if target is None:
            return []
        taken_in = self._taken_in_by(target)
        if taken_in is not None:
            return self._include(taken_in, base)
        label = _config_label(target)
        if label and (taken := self.taken_in(label)):
            return [Route(includes=taken, **base)]  # type: ignore[arg-type]
        bare = isinstance(target, ast.Name | ast.Attribute)
        return [Route(view=self._dotted(target), bare=bare, **base)]  # type: ignore[arg-type]

    def _taken_in_by(self, target: ast.expr) -> ast.expr | None:
        """Return what the host's ``include`` in a target takes in, also where another function wraps it; None for none.

        A function of packages that includes with something laid over it takes the configuration behind that.
        """
        for one in ast.walk(target):
            function = spelled(one.func).rpartition(".")[2] if isinstance(one, ast.Call) else ""
            if not isinstance(one, ast.Call) or not function.endswith("include") or not one.args:
                continue
            if function == "include" or len(one.args) == 1:
                return one.args[0]
            named = [given for given in one.args if isinstance(given, ast.Constant) and isinstance(given.value, str)]
            if named:
                return named[-1]
            self._cannot_tell(one)
        return None

    def _include(self, argument: ast.expr, base: dict[str, object]) -> list[Route]:
        if isinstance(argument, ast.Tuple) and argument.elts:
            argument = argument.elts[0]
        label = _config_label(argument)
        if label and (taken := self.taken_in(label)):
            return [Route(includes=taken, **base)]  # type: ignore[arg-type]
        if isinstance(argument, ast.Constant) and isinstance(argument.value, str):
            return [Route(includes=argument.value, **base)]  # type: ignore[arg-type]
        if isinstance(argument, ast.List | ast.Name):
            inner = self._routes(argument, False, True)
            if inner is not None:
                prefix = str(base["pattern"] or "")
                return [one._replace(pattern=None if one.pattern is None else prefix + one.pattern) for one in inner]
        if isinstance(argument, ast.JoinedStr | ast.Call | ast.Subscript | ast.BinOp):
            self._cannot_tell(argument)
        return [Route(includes=self._dotted(argument), **base)]  # type: ignore[arg-type]

    def _dotted(self, node: ast.expr) -> str:
        """Spell what a controller expression names, through the file's imports; empty when it names nothing."""
        while isinstance(node, ast.Call):
            wraps = isinstance(node.func, ast.Attribute) and node.func.attr == "as_view"
            node = (
                node.func.value
                if wraps and isinstance(node.func, ast.Attribute)
                else (node.args[0] if node.args else node.func)
            )
        if isinstance(node, ast.Lambda):
            return ""
        text = spelled(node)
        head, dot, rest = text.partition(".")
        if not head.isidentifier():
            return ""
        local = any(
            isinstance(one, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef) and one.name == head
            for one in self.tree.body
        )
        base = self.names.get(head) or (f"{self.result.dotted}.{head}" if local else "")
        return f"{base}{dot}{rest}" if base else ""
