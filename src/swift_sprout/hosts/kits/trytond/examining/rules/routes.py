"""Routes: methods, parameters, decorators, addresses that two answer; and the templates that pages draw."""

from __future__ import annotations

import ast
import re
import xml.parsers.expat
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...reading.routes import Route, routes_of
from ..examination import near

if TYPE_CHECKING:
    from ......core.findings import Finding
    from ..examination import Examination

_PARAMETER = re.compile(r"<(?:[^:<>]+:)?([a-z_][a-z0-9_]*)>")
_POOL = ("with_pool", "ANYONE", "SIGNED_IN")


def routes(exam: Examination) -> Iterator[Finding]:
    """Routes without a method, with other parameters than their rule, or without what they need."""
    for route in routes_of(exam.module):
        owner = route.owner
        method = owner.methods.get(route.method)
        if method is None:
            if route.method and not any(base.rpartition(".")[2] not in ("Router",) for base in owner.bases):
                yield exam.find(
                    "routed.method-absent",
                    owner.path,
                    route.line,
                    method=route.method,
                    name=owner.name,
                    near=near(route.method, owner.methods),
                )
            continue
        yield from _call(exam, route, method)


def _call(exam: Examination, route: Route, method: ast.FunctionDef) -> Iterator[Finding]:
    owner = route.owner
    names = [argument.arg for argument in method.args.args]
    first = names[2:] if names and names[0] == "cls" else names[1:]
    required = first[: len(first) - len(method.args.defaults)]
    if any("(" in one_decorator and "lambda" in one_decorator for one_decorator in route.decorators):
        return
    text = " ".join(route.decorators)
    yield from _order(exam, route)
    if "readonly=True" in text and _writes(exam, route):
        yield exam.find("routed.reads-only", owner.path, route.line, method=route.method, name=owner.name)
    has_pool = any(word in text for word in _POOL) or "user_application" in text
    unknown = [name for name in route.decorators if _plain(name) not in _KNOWN]
    if required[:1] == ["pool"] and not has_pool and not unknown:
        yield exam.find("routed.no-pool", owner.path, route.line, method=route.method, name=owner.name)
        return
    if required[:1] == ["pool"] and "with_pool" in text and "with_transaction" not in text and not unknown:
        if "pool.get" in ast.unparse(method):
            yield exam.find("routed.no-transaction", owner.path, route.line, method=route.method, name=owner.name)
            return
    given = set(_PARAMETER.findall(route.rule))
    given.discard("database_name")
    taken = set(first) - {"pool", "database_name"}
    wanted = set(required) - {"pool", "database_name"}
    if method.args.kwarg is not None or not has_pool:
        return
    if given - taken or wanted - given:
        yield exam.find(
            "routed.parameters",
            owner.path,
            route.line,
            rule=route.rule or "(its root)",
            given=", ".join(sorted(given)) or "nothing",
            name=owner.name,
            method=route.method,
            takes=", ".join(name for name in first if name != "pool") or "nothing",
        )


def _order(exam: Examination, route: Route) -> Iterator[Finding]:
    """A guard that asks the database before there is one: decorators are put on from the first to the last."""
    plain = [_plain(name) for name in route.decorators]
    guards = [number for number, said in enumerate(route.decorators) if "user_application(" in said]
    if guards and "with_pool" in plain and plain.index("with_pool") > guards[0]:
        yield exam.find("routed.guard-first", route.owner.path, route.line, method=route.method, name=route.owner.name)


def _writes(exam: Examination, route: Route) -> bool:
    """True when what answers a route keeps records, itself or by a button of a model of the module."""
    if not set(route.methods) - {"GET", "HEAD", "OPTIONS"}:
        return False
    if _keeps_something(route):
        return True
    method = route.owner.methods.get(route.method)
    called = (
        {node.attr for node in ast.walk(method) if isinstance(node, ast.Attribute)} if method is not None else set()
    )
    return any(
        name in called and _keeps({node.attr for node in ast.walk(one) if isinstance(node, ast.Attribute)})
        for _, found in exam.listed
        for name, one in found.methods.items()
        if found.sort == "model"
    )


def _keeps(names: set[str]) -> bool:
    return bool(names & {"create", "write", "delete", "save"})


_KNOWN = frozenset(
    {"with_pool", "with_transaction", "*ANYONE", "*SIGNED_IN", "in_language", "staff_only", "needs", "needs_right"}
    | {"app.auth_required", "allow_null_origin", "set_max_request_size", "app.session_valid"}
)


def _plain(decorator: str) -> str:
    return decorator.partition("(")[0]


def conflicts(exam: Examination) -> Iterator[Finding]:
    """Addresses and router names that another module has as well."""
    own = [route for route in routes_of(exam.module) if route.router]
    if not own:
        return
    claimed = {name for route in own for name in (route.router, route.path(""))}
    others = {other.name for name in claimed for other in exam.view.modules_by_address.get(name, ())}
    for other in exam.view.modules if len(others) > 1 else ():
        if other is exam.module or other.name not in others:
            continue
        theirs = other.shared.routes
        routers = {route.router for route in theirs if not route.owner.extends}
        taken = {route.path(""): route for route in theirs if route.rule.startswith("/")}
        told: set[str] = set()
        for route in own:
            if route.router in routers and not route.owner.extends and route.router not in told:
                told.add(route.router)
                yield exam.find(
                    "routed.router-taken",
                    route.owner.path,
                    route.owner.model_line,
                    router=route.router,
                    other=other.name,
                )
            found = taken.get(route.path("")) if route.rule.startswith("/") else None
            if found is not None and set(found.methods) & set(route.methods):
                yield exam.find(
                    "routed.taken",
                    route.owner.path,
                    route.line,
                    path=route.path("DATABASE"),
                    other=other.name,
                    other_place=f"{exam.view.relative(found.owner.path)}:{found.line}",
                )


def writers(exam: Examination) -> Iterator[Finding]:
    """Routes that write and ask nobody who calls."""
    told: set[str] = set()
    for route in routes_of(exam.module) if exam.module.own else ():
        writes = [method for method in route.methods if method not in ("GET", "HEAD", "OPTIONS")]
        if writes and route.open_to == "anyone" and route.method not in told and _keeps_something(route):
            told.add(route.method)
            yield exam.find(
                "permitted.open-writer",
                route.owner.path,
                route.line,
                name=route.owner.name,
                method=route.method,
                methods=", ".join(writes),
            )


def _keeps_something(route: Route) -> bool:
    """True when the method that answers a route makes, changes or deletes records."""
    method = route.owner.methods.get(route.method)
    names = {node.attr for node in ast.walk(method) if isinstance(node, ast.Attribute)} if method is not None else set()
    return _keeps(names)


def templates(exam: Examination) -> Iterator[Finding]:
    """Templates that the code draws and that are not there, or do not parse."""
    folder = exam.module.folder / "templates"
    if not folder.is_dir():
        return
    there = {path.name for path in folder.glob("*.html")}
    for file in exam.module.code_files:
        for node in ast.walk(file.tree) if file.tree is not None and b".html" in file.content else ():
            if isinstance(node, ast.Call) and node.args and isinstance(node.args[0], ast.Constant):
                said = node.args[0].value
                if isinstance(said, str) and re.fullmatch(r"[\w-]+\.html", said) and said not in there:
                    yield exam.find(
                        "served.template-absent", file.path, node.lineno, template=said, near=near(said, there)
                    )
    for path in sorted(folder.glob("*.html")):
        parser = xml.parsers.expat.ParserCreate()
        try:
            parser.Parse(_without_declaration(path.read_text("utf-8", "replace")), True)
        except xml.parsers.expat.ExpatError as error:
            reason = xml.parsers.expat.ErrorString(error.code)
            if reason != "undefined entity":
                yield exam.find("served.template-broken", path, error.lineno, reason=reason)


def _without_declaration(text: str) -> str:
    return re.sub(r"<!DOCTYPE[^>]*>", "", text, count=1)
