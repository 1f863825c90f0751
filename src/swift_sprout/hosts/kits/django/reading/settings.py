"""What a settings module says, read from its syntax trees: lists keep the place of every entry.

Understood are the forms that settings come in: literals, names, ``+``, ``+=``, ``append``, ``extend``, ``remove``,
unpacking, ``from .base import *``, paths made from ``BASE_DIR``, lists made from lists, functions of the file that only
return something. What depends on a condition or another call is kept as uncertain, and said to be.
"""

from __future__ import annotations

import ast
from pathlib import Path
from typing import Any, NamedTuple

from .paths import glob_values, path_value
from .project import Project


class Unknown:
    """A value that reading alone cannot tell."""

    def __repr__(self) -> str:
        return "unknown"


UNKNOWN = Unknown()
#  by these, code reaches every name of its file
_ALL_NAMES = frozenset({"globals", "locals", "vars", "exec", "eval", "setattr", "include"})


class Entry(NamedTuple):
    """One element of a list setting and where it stands; ``conditional`` when it is there only in some cases."""

    value: Any
    file: Path
    line: int
    conditional: bool = False


class ListLiteral(NamedTuple):
    """A list or tuple written out in a file, which an entry may be put into."""

    file: Path
    name: str
    node: ast.List | ast.Tuple
    conditional: bool


class Value:
    """What one setting is.

    plain    -- the value, UNKNOWN when it cannot be told; for a list the list of its plain elements
    entries  -- the elements of a list, literals -- the lists written out that make it up
    sure     -- False when parts of a list cannot be told
    """

    def __init__(
        self,
        plain: Any,
        file: Path,
        line: int,
        entries: list[Entry] | None = None,
        literals: list[ListLiteral] | None = None,
        sure: bool = True,
    ) -> None:
        self.plain = plain
        self.file = file
        self.line = line
        self.entries = entries or []
        self.literals = literals or []
        self.sure = sure

    def not_sure(self) -> Value:
        """Return the same list, of which parts cannot be told."""
        return Value(self.plain, self.file, self.line, self.entries, self.literals, False)

    def either(self, other: Value) -> Value:
        """Return a list that holds the parts of this one or those of another, in some cases."""
        literals = self.literals + [
            one for one in other.literals if all(one.node is not two.node for two in self.literals)
        ]
        entries = self.entries + [one for one in other.entries if one not in self.entries]
        return Value([one.value for one in entries], other.file, other.line, entries, literals, False)


class Settings:
    """The settings of a project as its files say them; ``files`` are those read, in order of reading."""

    def __init__(self, project: Project, module: str) -> None:
        self.project = project
        self.module = module
        self.files: list[Path] = []
        self.broken: list[tuple[Path, int, str]] = []
        self.missing: list[tuple[Path, int, str]] = []
        self.open_ended = False  # whether names may be set that no statement here shows
        self._open: set[Path] = set()
        self.path = project.file_of(module)
        self.values: dict[str, Value] = self._module(self.path) if self.path else {}

    def get(self, name: str) -> Value | None:
        """Return a setting, or None when the settings do not set it."""
        return self.values.get(name)

    @property
    def for_all(self) -> list[Path]:
        """The files of settings that every environment reads: of settings for one environment, those that it rests on.

        A file of settings is for one environment where another one beside it rests on the same file.
        """
        if self.path is None:
            return []
        base = [path for path in self.files if path != self.path]
        if not base:
            return self.files
        package = self.module.rpartition(".")[0]
        for beside in sorted(self.path.parent.glob("*.py")):
            if beside in self.files or beside.stem == "__init__":
                continue
            other = Settings(self.project, f"{package}.{beside.stem}" if package else beside.stem)
            shared = [path for path in base if path in other.files]
            if shared:
                return shared
        return self.files

    def plain(self, name: str, default: Any = None) -> Any:
        """Return a setting's plain value, or ``default`` when it is not set or cannot be told."""
        value = self.values.get(name)
        return default if value is None or value.plain is UNKNOWN else value.plain

    def _module(self, path: Path) -> dict[str, Value]:
        if path in self._open:
            return {}
        source = self.project.parse(path)
        if path not in self.files:
            self.files.append(path)
        if source is None or source.tree is None:
            broken = source.broken if source else None
            self.broken.append((path, broken.line if broken else 1, broken.reason if broken else "cannot be read"))
            return {}
        self._open.add(path)
        values: dict[str, Value] = {}
        _Statements(self, path, values).run(source.tree.body)
        self._open.discard(path)
        return values

    def imported(self, node: ast.ImportFrom, path: Path) -> Path | None:
        """Return the file that a ``from … import`` of a settings file loads, when it is one of the host."""
        if not node.level:
            return self.project.file_of(node.module or "")
        folder = path.parent
        for _ in range(node.level - 1):
            folder = folder.parent
        return Project.file_in(folder.parent, ".".join([folder.name, *(node.module or "").split(".")]).rstrip("."))


class _Statements:
    """Carries out the statements of one settings file on paper."""

    def __init__(self, settings: Settings, path: Path, values: dict[str, Value]) -> None:
        self.settings = settings
        self.path = path
        self.values = values
        self.conditional = False
        self._functions: dict[str, ast.FunctionDef] = {}

    def run(self, statements: list[ast.stmt]) -> None:
        for statement in statements:
            self.one(statement)

    def one(self, node: ast.stmt) -> None:
        if isinstance(node, ast.Assign):
            value = self.value(node.value, node.targets)
            for target in node.targets:
                if isinstance(target, ast.Name):
                    self._set(target.id, value)
                elif isinstance(target, ast.Subscript):
                    self._subscript(target, value)
        elif isinstance(node, ast.AnnAssign) and node.value and isinstance(node.target, ast.Name):
            self._set(node.target.id, self.value(node.value, [node.target]))
        elif isinstance(node, ast.AugAssign) and isinstance(node.op, ast.Add) and isinstance(node.target, ast.Name):
            self.extend(node.target.id, self.value(node.value, [node.target]), node.lineno)
        elif isinstance(node, ast.AugAssign) and self._change_inside(node.target, node.value, "extend"):
            pass
        elif isinstance(node, ast.Expr) and isinstance(node.value, ast.Call):
            self.call(node.value)
        elif isinstance(node, ast.ImportFrom):
            self.import_from(node)
        elif isinstance(node, ast.If):
            self._if(node)
        elif isinstance(node, ast.Try):
            self.run(node.body)
            self._conditionally([*(part for handler in node.handlers for part in handler.body), *node.orelse])
            self.run(node.finalbody)
        elif isinstance(node, ast.With):
            self.run(node.body)
        elif not isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef | ast.Import):
            self._unfollowed(node)
        if isinstance(node, ast.FunctionDef):
            self._functions[node.name] = node
            self._may_change({name for one in ast.walk(node) if isinstance(one, ast.Global) for name in one.names})

    def _unfollowed(self, node: ast.AST) -> None:
        """Take what a statement may change that is not carried out here, such as a loop, for no longer sure."""
        self._may_change({one.id for one in ast.walk(node) if isinstance(one, ast.Name)})
        for one in ast.walk(node):
            if isinstance(one, ast.Call) and isinstance(one.func, ast.Name) and one.func.id in _ALL_NAMES:
                self.settings.open_ended = True
                self._may_change(set(self.values))

    def _may_change(self, names: set[str]) -> None:
        for name in names & set(self.values):
            held = self.values[name]
            if isinstance(held.plain, list):
                self.values[name] = held.not_sure()

    def _if(self, node: ast.If) -> None:
        test = self.value(node.test, []).plain
        if isinstance(node.test, ast.UnaryOp) and isinstance(node.test.op, ast.Not):
            inner = self.value(node.test.operand, []).plain
            test = UNKNOWN if inner is UNKNOWN else not inner
        if test is UNKNOWN:
            self._conditionally(node.body)
            self._conditionally(node.orelse)
        else:
            self.run(node.body if test else node.orelse)

    def _conditionally(self, statements: list[ast.stmt]) -> None:
        before, self.conditional = self.conditional, True
        self.run(statements)
        self.conditional = before

    def _set(self, name: str, value: Value) -> None:
        """Give a name a value; where that depends on a condition, a list holds what it held before as well."""
        held = self.values.get(name)
        if self.conditional and held is not None and isinstance(held.plain, list) and isinstance(value.plain, list):
            value = held.either(value)
        elif self.conditional and held is not None and isinstance(held.plain, list):
            value = held.not_sure()
        self.values[name] = value

    def _subscript(self, target: ast.Subscript, value: Value) -> None:
        container = self._held(target.value)
        key = target.slice.value if isinstance(target.slice, ast.Constant) else None
        if isinstance(container, dict) and key is not None:
            container[key] = UNKNOWN if self.conditional and container.get(key) != value.plain else value.plain
        elif isinstance(target.value, ast.Name):
            held = self.values.get(target.value.id)
            if held is not None and isinstance(held.plain, list):
                self.values[target.value.id] = held.either(value) if isinstance(value.plain, list) else held.not_sure()

    def _held(self, node: ast.expr) -> Any:
        """Return what a name holds, or a part of it that is asked for by a number or a key; UNKNOWN for all else."""
        if isinstance(node, ast.Name):
            held = self.values.get(node.id)
            return held.plain if held is not None else UNKNOWN
        if isinstance(node, ast.Subscript) and isinstance(node.slice, ast.Constant):
            container, key = self._held(node.value), node.slice.value
            if isinstance(container, dict):
                return container.get(key, UNKNOWN)
            if isinstance(container, list) and isinstance(key, int) and -len(container) <= key < len(container):
                return container[key]
        return UNKNOWN

    def _change_inside(self, target: ast.expr, given: ast.expr, how: str) -> bool:
        """Add to a list inside of a setting, such as the folders of an engine; False where it is none that is known."""
        held = self._held(target) if isinstance(target, ast.Subscript) else None
        if not isinstance(held, list):
            return False
        more = self.value(given, []).plain
        added = more if how == "extend" and isinstance(more, list) else [UNKNOWN if how == "extend" else more]
        held += [UNKNOWN if self.conditional else one for one in added]
        return True

    def import_from(self, node: ast.ImportFrom) -> None:
        found = self.settings.imported(node, self.path)
        if found is None:
            if node.level:
                self.settings.missing.append((self.path, node.lineno, "." * node.level + (node.module or "")))
            for alias in node.names:
                self.values.pop(alias.asname or alias.name, None)
                if alias.name == "*":  # of a package that is not read: it may set anything
                    self.settings.open_ended = True
                    self._may_change(set(self.values))
            return
        theirs = self.settings._module(found)
        for alias in node.names:
            if alias.name == "*":
                self.values.update({name: value for name, value in theirs.items() if not name.startswith("_")})
            elif alias.name in theirs:
                self.values[alias.asname or alias.name] = theirs[alias.name]

    def call(self, node: ast.Call) -> None:
        function = node.func
        adds = isinstance(function, ast.Attribute) and function.attr in ("append", "insert", "extend") and node.args
        if adds and isinstance(function, ast.Attribute):
            if self._change_inside(function.value, node.args[-1], function.attr):
                return
        if not (isinstance(function, ast.Attribute) and isinstance(function.value, ast.Name)):
            self._unfollowed(node)
            return
        name, held = function.value.id, self.values.get(function.value.id)
        if held is None or not isinstance(held.plain, list):
            self._unfollowed(node)
            return
        if not node.args:
            self.values[name] = held.not_sure()
            return
        given = self.value(node.args[-1], [])
        if function.attr in ("append", "insert"):
            added = Entry(given.plain, self.path, node.lineno, self.conditional)
            self.values[name] = _joined(held, Value([given.plain], self.path, node.lineno, [added]))
        elif function.attr == "extend":
            self.extend(name, given, node.lineno)
        elif function.attr == "remove":
            kept = [entry for entry in held.entries if entry.value != given.plain]
            sure = held.sure and not self.conditional
            self.values[name] = Value([entry.value for entry in kept], held.file, held.line, kept, held.literals, sure)
        else:
            self.values[name] = held.not_sure()

    def extend(self, name: str, more: Value, line: int) -> None:
        held = self.values.get(name)
        if held is None:
            held = Value([], self.path, line, sure=False)
        self.values[name] = _joined(held, more) if isinstance(held.plain, list) else Value(UNKNOWN, self.path, line)

    def value(self, node: ast.expr, targets: list[Any]) -> Value:
        name = targets[0].id if targets and isinstance(targets[0], ast.Name) else ""
        line = node.lineno
        if isinstance(node, ast.Constant):
            return Value(node.value, self.path, line)
        if isinstance(node, ast.List | ast.Tuple):
            return self._sequence(node, name)
        if isinstance(node, ast.Dict):
            return Value(self._mapping(node), self.path, line)
        if isinstance(node, ast.Name):
            return self.values.get(node.id, Value(UNKNOWN, self.path, line))
        if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
            left, right = self.value(node.left, targets), self.value(node.right, targets)
            if isinstance(left.plain, list) or isinstance(right.plain, list):
                return _joined(left, right)
            if isinstance(left.plain, str) and isinstance(right.plain, str):
                return Value(left.plain + right.plain, self.path, line)
            return Value(UNKNOWN, self.path, line)
        called = node.func.id if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) else ""
        if isinstance(node, ast.Call) and called in ("list", "tuple", "sorted"):
            held = self.value(node.args[0], targets) if node.args else Value([], self.path, line)
            return held.not_sure() if called == "sorted" else held  # in another order
        if isinstance(node, ast.ListComp | ast.GeneratorExp):
            return self._made_from_list(node)
        if isinstance(node, ast.Call) and called in self._functions:
            return self._returned(self._functions[called], node)
        known = {name: held.plain for name, held in self.values.items() if isinstance(held.plain, str | Path)}
        found = glob_values(node, self.path, known)
        if found is not None:
            return Value([*found], self.path, line, [Entry(one, self.path, line) for one in found], sure=False)
        path = path_value(node, self.path, known)
        return Value(UNKNOWN if path is None else path, self.path, line)

    def _mapping(self, node: ast.Dict) -> dict[Any, Any]:
        """Return a dictionary; what cannot be told of its keys is there under None."""
        plain: dict[Any, Any] = {}
        for key, held in zip(node.keys, node.values, strict=True):
            value = self.value(held, []).plain
            if isinstance(key, ast.Constant):
                plain[key.value] = value
            elif key is None and isinstance(value, dict):
                plain.update(value)
            else:
                plain[None] = UNKNOWN
        return plain

    def _made_from_list(self, node: ast.ListComp | ast.GeneratorExp) -> Value:
        """Return a list that is made from another one, item by item; its entries stand in no list written out."""
        loop = node.generators[0]
        unsure = Value([UNKNOWN], self.path, node.lineno, sure=False)
        source = self.value(loop.iter, [])
        if len(node.generators) > 1 or loop.ifs or not isinstance(loop.target, ast.Name):
            return unsure
        if not isinstance(source.plain, list):
            return unsure
        made = [self._with({loop.target.id: Value(one, self.path, node.lineno)}, node.elt) for one in source.plain]
        entries = [Entry(one, self.path, node.lineno) for one in made]
        return Value(made, self.path, node.lineno, entries, sure=False)

    def _returned(self, function: ast.FunctionDef, call: ast.Call) -> Value:
        """Return what a function of the file returns, where it takes nothing and does nothing else."""
        body = [one for one in function.body if not (isinstance(one, ast.Expr) and isinstance(one.value, ast.Constant))]
        given = function.args
        plain = not (call.args or call.keywords or given.args or given.vararg or given.kwarg or given.kwonlyargs)
        if plain and len(body) == 1 and isinstance(body[0], ast.Return) and body[0].value is not None:
            found = self.value(body[0].value, [])
            return Value(found.plain, self.path, call.lineno, found.entries, sure=False)
        return Value(UNKNOWN, self.path, call.lineno)

    def _with(self, names: dict[str, Value], node: ast.expr) -> Any:
        """Return what an expression is while some names stand for something."""
        before = {name: self.values.get(name) for name in names}
        self.values.update(names)
        plain = self.value(node, []).plain
        for name, held in before.items():
            if held is None:
                del self.values[name]
            else:
                self.values[name] = held
        return plain

    def _sequence(self, node: ast.List | ast.Tuple, name: str) -> Value:
        value = Value([], self.path, node.lineno, literals=[ListLiteral(self.path, name, node, self.conditional)])
        for element in node.elts:
            if isinstance(element, ast.Starred):
                value = _joined(value, self.value(element.value, []))
                continue
            plain = self.value(element, []).plain
            value.plain.append(plain)
            value.entries.append(Entry(plain, self.path, element.lineno, self.conditional))
            value.sure = value.sure and plain is not UNKNOWN
        return value


def _joined(left: Value, right: Value) -> Value:
    """Return the value of two lists put together; a part that cannot be told makes the whole unsure."""
    parts = [part for part in (left, right) if isinstance(part.plain, list)]
    return Value(
        [plain for part in parts for plain in part.plain],
        left.file,
        left.line,
        [entry for part in parts for entry in part.entries],
        [literal for part in parts for literal in part.literals],
        len(parts) == 2 and left.sure and right.sure,
    )
