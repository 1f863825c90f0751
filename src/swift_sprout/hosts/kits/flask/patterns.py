"""What a module's files alone show to be wrong with its views: names, rules, and files that nothing imports."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ....core.nearest import near_text, nearest, said_near
from ...python.attributes import absent_attributes
from ...python.bindings import names_bound
from ...python.returning import gives_nothing
from .entry import dotted_of
from .places import is_part

if TYPE_CHECKING:
    from ....core.findings import Finding
    from .host import FlaskHost
    from .reading import CodeFile, SiteFiles

_CONVERTERS = {"default", "string", "int", "float", "path", "any", "uuid"}  # werkzeug.routing (3.1)
_PARAMETER = re.compile(r"<(\w+)(?:\([^)]*\))?:\w+>")
#  by these a view gets its name in a way that is not read here
_DECLARED_OTHERWISE = ("add_url_rule", "endpoint=", "register_blueprint", "import_module", "as_view", "methodview")
_ENDPOINT = re.compile(r"url_for\(\s*['\"](\w*)\.(\w+)['\"]")
_LINK = re.compile(r"url_for\(\s*['\"](?:(\w+)|)\.static['\"]\s*,\s*filename\s*=\s*['\"]([^'\"]+)['\"]\s*\)")


def from_files(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Yield what is wrong with the views of a module."""
    yield from _undefined(host, files, name)
    yield from _attributes(host, files, name)
    yield from _imports(host, files, name)
    yield from _rules(host, files, name)
    yield from _arguments(host, files, name)
    yield from _twice(host, files, name)
    yield from _prefix(host, files, name)
    yield from _links(host, files, name)
    yield from _nothing(host, files, name)
    yield from _endpoints(host, files, name)
    yield from _not_loaded(host, files, name)


def _undefined(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Names that code of the module uses and nothing defines."""
    for path in (one.path for one in files.code_below(name)) if files.undefined else ():
        for one in files.undefined.get(str(path), ()):
            code = "served.name-undefined" if one.late else "enabled.name-undefined"
            yield host.finding(code, name, host.relative(path), one.line, name=one.name, near=one.near)


def _attributes(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """What code of the module asks of the site's own files by their names, and they do not have."""
    for code in files.code(name):
        if code.tree is None:
            continue
        dotted = dotted_of(host.root, code.path)
        package = dotted if code.path.name == "__init__.py" else dotted.rpartition(".")[0]
        for one in absent_attributes(code.nodes, package, files.file_of, lambda path: files.read(path).tree):
            values = {"name": f"{one.module}.{one.name}", "near": one.near, "other": host.relative(one.file)}
            rule = "served.attribute-absent" if one.late else "enabled.attribute-absent"
            yield host.finding(rule, name, host.relative(code.path), one.line, **values)


def _not_loaded(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Yield files that declare something of the blueprint, and that no file of the host imports."""
    made = files.made_in(name)
    if made is None or files.imports_by_name:
        return
    loaded = {
        one.resolved
        for one in files.code_below(name)
        if one.path.name == "__init__.py" or one.path.stem in files.imported
    }
    for path, line, what in files.unloaded(name, frozenset(loaded)):
        marker = host.relative(made[0].path)
        yield host.finding("routed.not-loaded", name, host.relative(path), line, what=what, marker=marker)


def _imports(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Names that a file takes from another one of the module, which does not bind them."""
    for code in files.code(name):
        for node in code.tree.body if code.tree is not None else ():
            if not isinstance(node, ast.ImportFrom) or node.level > 1:
                continue
            target = node.module or ""
            if not node.level:
                if not is_part(target, name):
                    continue
                target = target.removeprefix(name).lstrip(".")
            folder = files.places.by_name[name].folder
            below = folder.joinpath(*target.split(".")) if target else folder
            file = below / "__init__.py" if below.is_dir() else below.with_suffix(".py")
            other = next((one for one in files.code(name) if one.path == file), None)
            if not file.exists() and not below.is_dir():
                names = [path.stem for path in folder.glob("*.py")]
                yield _absent(host, name, code, node.lineno, f"{name}.{target}", near_text(target, names))
            bound = names_bound(other.tree) if other is not None and other.tree is not None else None
            for alias in node.names if bound is not None else ():
                inside = below / alias.name
                there = inside.is_dir() or inside.with_suffix(".py").exists()
                if alias.name != "*" and bound is not None and alias.name not in bound and not there:
                    said = f"{name}.{target}.{alias.name}".replace("..", ".")
                    yield _absent(host, name, code, node.lineno, said, near_text(alias.name, bound))


def _absent(host: FlaskHost, name: str, code: CodeFile, line: int, target: str, near: str) -> Finding:
    return host.finding("enabled.import-absent", name, host.relative(code.path), line, target=target, near=near)


def _rules(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Parameters of a kind that the application does not have."""
    unknown = [
        (view, kind)
        for view in files.views(name)
        for rule in view.rules
        for kind in _PARAMETER.findall(rule)
        if kind not in _CONVERTERS
    ]
    if unknown and any("converters" in one.text for one in files.every):
        return
    for view, kind in unknown:
        values = {"converter": kind, "near": near_text(kind, _CONVERTERS)}
        yield host.finding("routed.converter-unknown", name, host.relative(view.path), view.line, **values)


def _arguments(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Views whose arguments are not those that their rules and decorators' defaults give."""
    for code in files.code(name):
        for function in code.nodes:
            if not isinstance(function, ast.FunctionDef | ast.AsyncFunctionDef) or function.args.kwarg is not None:
                continue
            routes = [one for one in function.decorator_list if _is_route(one)]
            if len(routes) != len(function.decorator_list):
                continue  # another decorator may give or take some
            for route in routes:
                assert isinstance(route, ast.Call)
                what = _amiss(function.args, route)
                if what:
                    rule = str(getattr(route.args[0], "value", ""))
                    values = {"rule": rule, "view": function.name, "what": what}
                    yield host.finding("routed.arguments", name, host.relative(code.path), function.lineno, **values)


def _is_route(node: ast.expr) -> bool:
    """True for a decorator that says a rule, written out."""
    said = node.args[0] if isinstance(node, ast.Call) and node.args else None
    verbs = ("route", "get", "post", "put", "delete", "patch")
    named = isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in verbs
    return named and isinstance(said, ast.Constant) and str(said.value).startswith("/")


def _amiss(arguments: ast.arguments, route: ast.Call) -> str:
    """Return how a function and a rule disagree, as half a sentence; empty where they do not, or that is not sure."""
    given = set(re.findall(r"<(?:[^:<>]+:)?(\w+)>", str(getattr(route.args[0], "value", ""))))
    for word in route.keywords:
        if word.arg is None or (word.arg == "defaults" and not isinstance(word.value, ast.Dict)):
            return ""
        if word.arg == "defaults" and isinstance(word.value, ast.Dict):
            given |= {str(getattr(key, "value", "")) for key in word.value.keys}
    plain = [*arguments.posonlyargs, *arguments.args]
    taken = {one.arg for one in (*plain, *arguments.kwonlyargs)}
    needed = {one.arg for one in plain[: len(plain) - len(arguments.defaults)]}
    needed |= {one.arg for one, value in zip(arguments.kwonlyargs, arguments.kw_defaults, strict=True) if value is None}
    if given - taken:
        extra = min(given - taken)
        return f"gives {extra}, which the function does not take{near_text(extra, needed - given)}"
    if needed - given:
        return f"gives no {min(needed - given)}, which the function asks for"
    return ""


def _twice(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Two views of one name, or of one address for the same methods, on one blueprint."""
    names: dict[tuple[str, str], int] = {}
    rules: dict[tuple[str, str, str], tuple[str, str, int]] = {}
    for code in files.code(name):
        for node in code.tree.body if code.tree is not None else ():
            if not isinstance(node, ast.FunctionDef):
                continue
            for call in node.decorator_list:
                if not isinstance(call, ast.Call) or not isinstance(call.func, ast.Attribute):
                    continue
                head, kind = ast.unparse(call.func.value), call.func.attr
                if kind not in ("route", "get", "post", "put", "patch", "delete"):
                    continue
                given = {key.arg: key.value for key in call.keywords}
                if "endpoint" not in given:
                    first = names.setdefault((head, node.name), node.lineno)
                    if first != node.lineno:
                        values = {"view": node.name, "other_line": first}
                        yield host.finding("enabled.view-twice", name, host.relative(code.path), node.lineno, **values)
                        continue
                rule = call.args[0] if call.args else None
                for method in _methods(kind, given.get("methods")):
                    if isinstance(rule, ast.Constant) and not set(given) - {"methods"}:
                        key = head, str(rule.value), method
                        file = host.relative(code.path)
                        other, place, _ = rules.setdefault(key, (node.name, f"{file}:{node.lineno}", node.lineno))
                        if other != node.name:
                            path = files.prefixes.get(name, "") + str(rule.value)
                            said = {"path": path, "view": node.name, "other": other, "other_place": place}
                            yield host.finding("routed.shadowed", name, file, node.lineno, **said)
                            break


def _nothing(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Views that end without a value."""
    lines = {(view.path, view.line) for view in files.views(name)}
    for code in files.code(name):
        for node in code.tree.body if code.tree is not None else ():
            if isinstance(node, ast.FunctionDef) and (code.path, node.lineno) in lines and gives_nothing(node):
                if len(node.decorator_list) == 1:  # another one may make the answer
                    yield host.finding(
                        "served.returns-nothing", name, host.relative(code.path), node.lineno, view=node.name
                    )


def _endpoints(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Links of the module's templates to views of its own that none of its files declares."""
    call = files.blueprint(name)
    blueprint = str(call.args[0].value) if call and call.args and isinstance(call.args[0], ast.Constant) else ""
    place = files.places.by_name[name]
    text = "".join(one.text for one in files.code_below(name))
    if not blueprint or text.count("Blueprint(") != 1 or any(word in text for word in _DECLARED_OTHERWISE):
        return
    known = {view.name for view in files.views(name)} | {"static"} | _decorated(files, name)
    for path in place.within("templates/**/*.html"):
        for number, line in enumerate(path.read_text("utf-8", "replace").splitlines(), 1):
            for owner, view in _ENDPOINT.findall(line):
                if owner in ("", blueprint) and view not in known:
                    values = {"what": f"{blueprint}.{view}", "near": near_text(view, known)}
                    yield host.finding("routed.endpoint-absent", name, host.relative(path), number, **values)


def _decorated(files: SiteFiles, name: str) -> set[str]:
    """Return the functions of a module that a decorator may make views, also one whose address reading cannot tell."""
    found = (node for code in files.code_below(name) for node in code.nodes)
    return {node.name for node in found if isinstance(node, ast.FunctionDef) and node.decorator_list}


def _methods(kind: str, said: ast.expr | None) -> list[str]:
    """Return the methods of a route; none where they cannot be told."""
    if kind != "route":
        return [kind.upper()]
    if said is None:
        return ["GET"]
    if isinstance(said, ast.List | ast.Tuple | ast.Set):
        return [str(one.value).upper() for one in said.elts if isinstance(one, ast.Constant)]
    return []


def _prefix(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Prefixes and rules that do not begin with a slash: the application does not start with them."""
    made = files.made_in(name)
    places = [(made[0].path, key.value) for key in made[1].keywords if key.arg == "url_prefix"] if made else []
    application = files.application
    own = application.by_module.get(name, ()) if application is not None else ()
    lines = {(one.path, one.line) for one in own if one.prefix[:1] not in ("/", "")}
    for path, tree in application.trees.items() if application is not None and lines else ():
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and (path, node.lineno) in lines and _registers(node):
                places += [(path, key.value) for key in node.keywords if key.arg == "url_prefix"]
    for path, value in places:
        if isinstance(value, ast.Constant) and isinstance(value.value, str) and value.value[:1] not in ("/", ""):
            yield host.finding("routed.slash-absent", name, host.relative(path), value.lineno, rule=value.value)
    for view in files.views(name):
        for rule in view.rules:
            if rule[:1] not in ("/", ""):
                yield host.finding("routed.slash-absent", name, host.relative(view.path), view.line, rule=rule)


def _registers(node: ast.Call) -> bool:
    return "register_blueprint" in ast.unparse(node.func)


def _links(host: FlaskHost, files: SiteFiles, name: str) -> Iterator[Finding]:
    """Links of templates to files of the module's own that are not there."""
    call = files.blueprint(name)
    said = {key.arg: key.value for key in call.keywords} if call is not None else {}
    folder = said.get("static_folder")
    if not isinstance(folder, ast.Constant) or not isinstance(folder.value, str):
        return
    place = files.places.by_name[name]
    there = place.folder / folder.value
    known = [path.relative_to(there).as_posix() for path in there.rglob("*") if path.is_file()]
    blueprint = str(call.args[0].value) if call is not None and isinstance(call.args[0], ast.Constant) else ""
    for path in place.within("templates/**/*.html"):
        for number, line in enumerate(path.read_text("utf-8", "replace").splitlines(), 1):
            for owner, file in _LINK.findall(line):
                if (owner or blueprint) == blueprint and file not in known and known:
                    match = nearest(file, known)
                    values = {"what": file, "near": said_near(match)}
                    yield host.finding("served.static-absent", name, host.relative(path), number, **values)
