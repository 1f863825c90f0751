"""Python files of modules: the classes that the host registers, with their fields and methods, read without running."""

from __future__ import annotations

import ast
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import NamedTuple

SORTS = {
    "ModelSQL": "model",
    "ModelView": "model",
    "ModelStorage": "model",
    "Model": "model",
    "ModelSingleton": "model",
}
SORTS |= {"Wizard": "wizard", "Report": "report", "Router": "router"}
FIELD_TYPES = frozenset(
    [
        "Boolean",
        "Integer",
        "BigInteger",
        "Char",
        "Text",
        "FullText",
        "Float",
        "Numeric",
        "Date",
        "DateTime",
        "Timestamp",
        "Time",
        "TimeDelta",
        "Binary",
        "Selection",
        "MultiSelection",
        "Reference",
        "Many2One",
        "One2Many",
        "Many2Many",
        "One2One",
        "Function",
        "MultiValue",
        "Dict",
    ]
)
RELATIONS = {"Many2One": 0, "One2Many": 0, "Many2Many": 0, "One2One": 0}


class CodeField(NamedTuple):
    """A field of a class: the field's class, the model it points at (empty for none), and its line.

    reverse -- the fields of that model which point back, and on to what the field holds, parted by spaces
    methods -- those that a function field names: getter, setter, searcher
    """

    name: str
    kind: str
    line: int
    target: str = ""
    reverse: str = ""
    methods: tuple[str, ...] = ()
    required: bool = False


class CodeClass(NamedTuple):
    """A class that has, or should have, a ``__name__`` of the host.

    model   -- its ``__name__``; empty where it has none, or the code works it out: then ``name_untold`` is True
    extends -- True for one whose metaclass says that it extends what another module brings
    sort    -- ``model``, ``wizard``, ``report`` or ``router`` as its bases tell; empty where they do not
    """

    name: str
    path: Path
    line: int
    model: str
    model_line: int
    bases: tuple[str, ...]
    extends: bool
    sort: str
    fields: dict[str, CodeField]
    methods: dict[str, ast.FunctionDef]
    assigned: dict[str, ast.expr]
    node: ast.ClassDef
    name_untold: bool = False


class CodeFile:
    """One Python file; ``broken`` is its syntax error."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.broken: SyntaxError | None = None
        self.tree: ast.Module | None = None
        self.classes: dict[str, CodeClass] = {}
        self.imported: dict[str, str] = {}
        self.texts: dict[str, str] = {}  # names that hold one text in the whole file
        self.content = b""
        try:
            self.content = path.read_bytes()
            self.tree = ast.parse(self.content, str(path))
        except SyntaxError as error:
            self.broken = error
            return
        except (OSError, ValueError) as error:
            self.broken = SyntaxError(str(error))
            return
        except (RecursionError, MemoryError):  # the parser's own words for it
            self.broken = SyntaxError("it is nested too deeply")
            return
        statements = list(_always_seen(self.tree.body))
        self.texts = _texts(statements)
        for node in statements:
            if isinstance(node, ast.ImportFrom):
                for alias in node.names:
                    self.imported[alias.asname or alias.name] = f"{'.' * node.level}{node.module or ''}:{alias.name}"
            elif isinstance(node, ast.Import):
                for alias in node.names:
                    self.imported[alias.asname or alias.name.split(".")[0]] = alias.name
            elif isinstance(node, ast.ClassDef):
                self.classes[node.name] = self._class(node)
        self._inherit()

    def _inherit(self) -> None:
        """Give classes the sort and the fields of bases in the same file."""
        for name, one in list(self.classes.items()):
            for base in one.bases:
                other = self.classes.get(base.rpartition(".")[2])
                if other is not None and other is not one:
                    one = one._replace(
                        sort=one.sort or other.sort,
                        extends=one.extends or (other.extends and not one.sort),
                        fields={**other.fields, **one.fields},
                        methods={**other.methods, **one.methods},
                        name_untold=one.name_untold or (other.name_untold and not one.model),
                    )
            self.classes[name] = one

    def _class(self, node: ast.ClassDef) -> CodeClass:
        bases = tuple(spelled(base) for base in node.bases)
        extends = any(key.arg == "metaclass" and spelled(key.value).endswith("PoolMeta") for key in node.keywords)
        model, model_line, name_untold = "", 0, False
        fields: dict[str, CodeField] = {}
        methods: dict[str, ast.FunctionDef] = {}
        assigned: dict[str, ast.expr] = {}
        for line in node.body:
            if isinstance(line, ast.Assign) and len(line.targets) == 1 and isinstance(line.targets[0], ast.Name):
                name = line.targets[0].id
                assigned[name] = line.value
                if name == "__name__":
                    model, model_line = text_of(line.value, self.texts) or "", line.lineno
                    name_untold = not model
                found = _field(name, line.value)
                if found is None and isinstance(line.value, ast.Call):
                    found = CodeField(name, "", line.lineno)  # a field of a class or function of its own, or no field
                if found is not None:
                    fields[name] = found
            elif isinstance(line, ast.FunctionDef):
                methods[line.name] = line
        sort = next((SORTS[base.rpartition(".")[2]] for base in bases if base.rpartition(".")[2] in SORTS), "")
        return CodeClass(
            node.name, self.path, node.lineno, model, model_line, bases, extends, sort, fields, methods, assigned, node,
            name_untold,
        )  # fmt: skip


def _always_seen(body: Iterable[ast.stmt]) -> Iterator[ast.stmt]:
    """Yield the statements of a file, and those inside its conditions and attempts."""
    for node in body:
        yield node
        if isinstance(node, ast.If | ast.Try | ast.With):
            for name in ("body", "handlers", "orelse", "finalbody"):
                for one in getattr(node, name, ()):
                    yield from _always_seen(one.body if isinstance(one, ast.ExceptHandler) else [one])


def _texts(statements: Iterable[ast.stmt]) -> dict[str, str]:
    """Return the names that are given one text, once."""
    told: dict[str, str] = {}
    twice = set()
    for node in statements:
        if isinstance(node, ast.Assign | ast.AnnAssign) and node.value is not None:
            for target in node.targets if isinstance(node, ast.Assign) else [node.target]:
                text = text_of(node.value, told)
                if isinstance(target, ast.Name):
                    if target.id in told or text is None:
                        twice.add(target.id)
                    else:
                        told[target.id] = text
        elif isinstance(node, ast.AugAssign) and isinstance(node.target, ast.Name):
            twice.add(node.target.id)
    return {name: text for name, text in told.items() if name not in twice}


def text_of(node: ast.expr, texts: Mapping[str, str]) -> str | None:
    """Return the text that an expression stands for: put together of constants and known names; None for any other."""
    if isinstance(node, ast.Constant):
        return node.value if isinstance(node.value, str) else None
    if isinstance(node, ast.Name):
        return texts.get(node.id)
    parts: list[ast.expr]
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
        parts = [node.left, node.right]
    elif isinstance(node, ast.JoinedStr):
        parts = [one.value if isinstance(one, ast.FormattedValue) else one for one in node.values]
        if any(isinstance(one, ast.FormattedValue) and (one.format_spec or one.conversion > 0) for one in node.values):
            return None
    else:
        return None
    told = [text_of(one, texts) for one in parts]
    return "".join(one for one in told if one is not None) if None not in told else None


def _field(name: str, value: ast.expr) -> CodeField | None:
    if not isinstance(value, ast.Call):
        return None
    kind = spelled(value.func).rpartition(".")[2]
    if kind not in FIELD_TYPES or not (spelled(value.func).startswith("fields.") or kind in RELATIONS):
        return None
    inner = value
    methods: list[str] = []
    if kind in ("Function", "MultiValue") and value.args and isinstance(value.args[0], ast.Call):
        if kind == "Function":
            texts = [_text(one) for one in value.args[1:2]]
            texts += [_text(key.value) for key in value.keywords if key.arg in ("getter", "setter", "searcher")]
            methods = [text for text in texts if text]
        inner = value.args[0]
    inner_kind = spelled(inner.func).rpartition(".")[2]
    target = ""
    if inner_kind in RELATIONS and inner.args:
        target = _text(inner.args[0])
    target = target or next((_text(key.value) for key in inner.keywords if key.arg == "model_name"), "")
    ends = {"One2Many": 1, "Many2Many": 2}.get(inner_kind, 0)
    reverse = " ".join(filter(None, map(_text, inner.args[1 : 1 + ends])))
    required = any(
        key.arg == "required" and isinstance(key.value, ast.Constant) and key.value.value is True
        for key in inner.keywords
    )
    return CodeField(name, inner_kind, value.lineno, target, reverse, tuple(methods), required)


def _text(node: ast.expr) -> str:
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""


def spelled(node: ast.expr) -> str:
    """Return a dotted name as it is spelled; empty for anything else."""
    if isinstance(node, ast.Name):
        return node.id
    if isinstance(node, ast.Attribute):
        above = spelled(node.value)
        return f"{above}.{node.attr}" if above else ""
    return ""
