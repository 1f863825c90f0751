"""Registering a blueprint: the code that makes the application imports and registers it, where that always runs."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ....core.changes import ChangeSet
from ....core.errors import Problem, Refused
from ....edits.carrying import NotCarried
from ....edits.python import insert_statement, remove_item, remove_statement, without_imported
from ....edits.source import SourceText
from ...contract.exchange import Edit
from .application import imports_of, of_itself
from .entry import dotted_of

if TYPE_CHECKING:
    from .application import Application, Registered
    from .host import FlaskHost
    from .places import Place


class Spot(NamedTuple):
    """Where a blueprint is registered: beside a statement of a file.

    after   -- behind the statement, or else before it
    name    -- what the file calls the application there
    beside  -- the line of the import of the blueprint that is registered there already; 0 for none
    """

    path: Path
    statement: ast.stmt
    after: bool
    name: str
    beside: int = 0


def switch_on(host: FlaskHost, module: str, at: str | None) -> Edit:
    """Return the edit that imports and registers a module's blueprint."""
    application = host.need_application()
    edit = Edit(ChangeSet(f"enable {module}"))
    if module in application.by_module or module in application.handed_to:
        there = [one.path for one in application.by_module.get(module, ())] or [application.path]
        edit.already.append(f"{host.relative(there[0])} registers it")
        return edit
    place = host.place(module)
    spot = _beside_others(application) or _before_returns(application) or _behind_application(application)
    if spot is None:
        raise Refused(
            "factory-unclear",
            f"{host.relative(application.path)}: where the application is ready cannot be told; nothing was changed.",
            f"Write there: from {module} import blueprint as {place.label}; app.register_blueprint({place.label})",
        )
    prefix = f', url_prefix="{at.rstrip("/")}"' if at and at.strip("/") else ""
    with _editing(host, spot.path, module) as source:
        text = source.text
        alias = _free_name(text, place.label)
        inside, name = _exported(place)
        imported = f"from {_spelled(host.root, spot, text, place)}{inside} import {name} as {alias}"
        lines = [f"{spot.name}.register_blueprint({alias}{prefix})"]
        if not spot.beside:
            lines.insert(0, imported)
        for line in reversed(lines) if spot.after else lines:
            text = insert_statement(text, _same(text, spot, lines.index(line)), line, after=spot.after)
        if spot.beside:
            beside = [
                one for one in ast.walk(ast.parse(text)) if isinstance(one, ast.stmt) and _imports_at(one, spot.beside)
            ]
            text = insert_statement(text, beside[0], imported)
        edit.changes.add(host.relative(spot.path), source.content(), source.with_text(text).content())
    return edit


def _same(text: str, spot: Spot, before: int) -> ast.stmt:
    """Return the statement of a spot in a text into which ``before`` lines were put ahead of it."""
    line = spot.statement.lineno + (0 if spot.after else before)
    found = [one for one in ast.walk(ast.parse(text)) if isinstance(one, ast.stmt) and one.lineno == line]
    return next(one for one in found if one.col_offset == spot.statement.col_offset)


def _imports_at(node: ast.AST, line: int) -> bool:
    return isinstance(node, ast.ImportFrom | ast.Import) and node.lineno == line


def _beside_others(application: Application) -> Spot | None:
    """Return the spot behind the last blueprint that is registered always, where others are."""
    found: Spot | None = None
    for path, tree in application.trees.items():
        imports = imports_of(application.root, path, tree)
        bodies = list(_always(tree))
        for body in bodies:
            for statement in body:
                call = statement.value if isinstance(statement, ast.Expr) else None
                if not isinstance(call, ast.Call) or not ast.unparse(call.func).endswith(".register_blueprint"):
                    continue
                head = ast.unparse(call.args[0]).partition(".")[0] if call.args else ""
                line = imports[head][1] if head in imports else 0
                local = any(_imports_at(one, line) for one in body) and body is not tree.body
                name = ast.unparse(call.func).removesuffix(".register_blueprint")
                if found is None or path == application.path:
                    found = Spot(path, statement, True, name, 0 if local or not line else line)
    return found


def _always(tree: ast.Module) -> Iterator[list[ast.stmt]]:
    """Yield the bodies whose statements run whenever the file, or a function of it, does."""
    yield tree.body
    for node in tree.body:
        if isinstance(node, ast.FunctionDef):
            yield from _straight(node.body)


def _straight(body: list[ast.stmt]) -> Iterator[list[ast.stmt]]:
    yield body
    for node in body:
        if isinstance(node, ast.With):
            yield from _straight(node.body)


def _before_returns(application: Application) -> Spot | None:
    """Return the spot in the factory that is passed whenever it returns an application."""
    function = application.function
    if function is None:
        return None
    made = [(at, name) for at, node in enumerate(function.body) if (name := _application_made(node))]
    if not made:
        last = function.body[-1]
        name = ast.unparse(last.value) if isinstance(last, ast.Return) and isinstance(last.value, ast.Name) else ""
        return Spot(application.path, last, False, name) if name and len(application.returns) == 1 else None
    at, name = made[-1]
    for node in function.body[at + 1 :]:
        if any(isinstance(one, ast.Return) for one in [node, *of_itself(_as_function(node))]):
            return Spot(application.path, node, False, name)
    return None


def _as_function(node: ast.stmt) -> ast.FunctionDef:
    """Wrap a statement, so that what it is made of can be walked without what functions in it hold."""
    if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
        return ast.FunctionDef("_", ast.arguments([], [], None, [], [], None, []), [], [])
    return ast.FunctionDef("_", ast.arguments([], [], None, [], [], None, []), [node], [])


def _application_made(node: ast.stmt) -> str:
    """Return the name under which a statement keeps a new application; empty for other statements."""
    if not isinstance(node, ast.Assign | ast.AnnAssign) or not isinstance(node.value, ast.Call):
        return ""
    target = node.targets[0] if isinstance(node, ast.Assign) else node.target
    made = ast.unparse(node.value.func).rpartition(".")[2].endswith("Flask")
    return target.id if made and isinstance(target, ast.Name) else ""


def _behind_application(application: Application) -> Spot | None:
    """Return the spot in a file that makes the application itself: behind what sets it up."""
    tree = application.trees.get(application.path)
    names = [name for node in tree.body if (name := _application_made(node))] if tree is not None else []
    if not names or tree is None or application.function is not None:
        return None
    name = names[-1]
    touching = [
        node
        for node in tree.body
        if isinstance(node, ast.Assign | ast.AnnAssign | ast.AugAssign | ast.Expr)
        and any(isinstance(one, ast.Name) and one.id == name for one in ast.walk(node))
    ]
    return Spot(application.path, touching[-1], True, name)


def _free_name(text: str, label: str) -> str:
    """Return a name for the blueprint that the file does not use for anything else."""
    used = {node.id for node in ast.walk(ast.parse(text)) if isinstance(node, ast.Name)}
    return f"{label}_blueprint" if label in used else label


def _spelled(root: Path, spot: Spot, text: str, place: Place) -> str:
    """Return how a file names a module: from its own package where it names its neighbours so."""
    near = [node for node in ast.walk(ast.parse(text)) if isinstance(node, ast.ImportFrom) and node.level == 1]
    package = dotted_of(root, spot.path.parent)
    inside = place.name.removeprefix(f"{package}.") if package else place.name
    return f".{inside}" if near and package and inside != place.name else place.name


def _exported(place: Place) -> tuple[str, str]:
    """Return by what a module's blueprint is imported: what is added to the module's name, and the blueprint's own.

    A package that does not hold it itself is asked for the one file of it that does.
    """
    made, imported = _blueprint_in(place.marker)
    if made or imported:
        return "", made or imported
    files = [] if place.is_file else [path for path in sorted(place.path.glob("*.py")) if path != place.marker]
    found = [(f".{path.stem}", name) for path in files if (name := _blueprint_in(path)[0])]
    return found[0] if len(found) == 1 else ("", "blueprint")


def _blueprint_in(path: Path) -> tuple[str, str]:
    """Return the name of the blueprint that a file makes, and of one that it imports; empty for none."""
    try:
        tree = ast.parse(path.read_bytes())
    except (OSError, SyntaxError, ValueError):
        return "", ""
    made = ""
    for node in tree.body:
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.Call):
            if ast.unparse(node.value.func).endswith("Blueprint") and isinstance(node.targets[0], ast.Name):
                made = made or node.targets[0].id
    names = [
        alias.asname or alias.name for node in tree.body if isinstance(node, ast.ImportFrom) for alias in node.names
    ]
    label = path.parent.name if path.name == "__init__.py" else path.stem
    likely = [name for name in names if name in ("bp", "blueprint", label) or name.endswith(("_bp", "_blueprint"))]
    return made, likely[0] if likely else ""


def switch_off(host: FlaskHost, module: str) -> Edit:
    """Return the edit that takes out all that registers a module, and the imports that were for that alone."""
    application = host.need_application()
    edit = Edit(ChangeSet(f"disable {module}"))
    for path, tree in application.trees.items():
        imports = imports_of(host.root, path, tree)
        own = {name: line for name, (package, line) in imports.items() if application.places.owner(package) == module}
        calls = [one for one in application.by_module.get(module, ()) if one.path == path]
        if not own:
            continue
        with _editing(host, path, module) as source:
            text = _without_calls(source.text, tree, own, calls)
            left = [node.id for node in ast.walk(ast.parse(text)) if isinstance(node, ast.Name) and node.id in own]
            if left:
                raise NotCarried(_last_use(tree, left[-1]), f"{left[-1]} is used there as well")
            for name, line in sorted(own.items(), key=lambda one: one[1], reverse=True):
                text = without_imported(text, _line_of_import(text, name, line), name)
            edit.changes.add(host.relative(path), source.content(), source.with_text(text).content())
    if not edit.changes:
        edit.already.append("the application does not register it")
        edit.unsure = [Problem(host.relative(application.path), "other code may register it", f"take out {module}")]
    return edit


def _last_use(tree: ast.Module, name: str) -> int:
    """Return the last line of a file on which a name is used: what registers a module stands before what uses it."""
    return max(node.lineno for node in ast.walk(tree) if isinstance(node, ast.Name) and node.id == name)


def _without_calls(text: str, tree: ast.Module, own: dict[str, int], calls: list[Registered]) -> str:
    """Take out the statements that hand the application to a module, and its elements of lists that are looped over."""
    lines = {one.line for one in calls}
    statements: list[ast.stmt] = []
    elements: dict[int, tuple[ast.List | ast.Tuple | ast.Set, int]] = {}
    inner: set[int] = set()
    for node in ast.walk(tree):  # from outside to inside: the pair of a blueprint and its address goes as a whole
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Call):
            call = node.value
            heads = {_head(one) for one in (call.func, *call.args[:1])}
            if heads & set(own) and (call.lineno in lines or _head(call.func) in own):
                statements.append(node)
        elif isinstance(node, ast.List | ast.Tuple | ast.Set) and id(node) not in inner:
            for index, element in enumerate(node.elts):
                first = element.elts[0] if isinstance(element, ast.Tuple) and element.elts else element
                if isinstance(first, ast.Name | ast.Attribute) and _head(first) in own:
                    elements[element.lineno * 1000 + element.col_offset] = node, index
                    inner.add(id(element))
    edits = [(one.lineno * 1000 + one.col_offset, one) for one in statements]
    for place, one in sorted([*edits, *elements.items()], key=lambda two: two[0], reverse=True):
        text = remove_statement(text, one) if isinstance(one, ast.stmt) else remove_item(text, *elements[place])
    return text


def _head(node: ast.expr) -> str:
    """Return the first name of an expression."""
    return ast.unparse(node).partition("(")[0].partition(".")[0]


def _line_of_import(text: str, name: str, line: int) -> int:
    """Return the line on which a name is imported in a text from which lines behind it were taken."""
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.Import | ast.ImportFrom) and node.lineno <= line:
            if any((alias.asname or alias.name) == name for alias in node.names):
                return node.lineno
    return line


@contextmanager
def _editing(host: FlaskHost, path: Path, module: str) -> Iterator[SourceText]:
    """Read a file for an edit; what cannot be edited safely there is refused with its line."""
    place = host.relative(path)
    try:
        yield SourceText.python(path.read_bytes())
    except NotCarried as error:
        raise Refused(
            "factory-unclear",
            f"{place}:{error.line}: {error.reason}; nothing was changed.",
            f"Write there by hand what registers {module}, or take it out.",
        ) from None
    except (SyntaxError, UnicodeError) as error:
        raise Refused("factory-unclear", f"{place}: {error}; nothing was changed.", "Fix that file.") from None
