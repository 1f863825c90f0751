"""Routed: from the root addresses to the module's own controllers."""

from __future__ import annotations

import ast
from collections.abc import Iterable, Iterator
from pathlib import Path

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from ...reading.addresses import Route
from ...reading.code import class_named, nodes_of, spelled
from ...reading.matching import answers
from ..examination import Examination


def included(exam: Examination) -> Iterator[Finding]:
    """The module's addresses are included by nobody."""
    view = exam.view
    if exam.live is not None and exam.routes:
        return  # it is included, perhaps in a way that reading cannot tell
    if not exam.module.urls or not view.root_urls or exam.included:
        return
    conf = view.addresses.file(view.root_urls)
    if conf is None or (not conf.routes and not conf.sure):
        return
    own = view.addresses.file(exam.module.urls)
    if own is not None and not own.routes and own.sure:
        return  # nothing to include
    line = conf.lists[-1].node.lineno if conf.lists else 0
    if not exam.host_answers and (unread := view.addresses.unread_below(view.root_urls)):
        yield exam.find("routed.unsure", *unread, urls=exam.module.urls)
        return
    yield exam.find("routed.not-included", conf.path, line, urls=exam.module.urls, root=view.relative(conf.path))


def controllers(exam: Examination) -> Iterator[Finding]:
    """Addresses whose controller is not in the file that it is said to be in."""
    own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    for route in own.routes if own else ():
        if not exam.owns(route.view):
            continue
        path, names, rest = _controller_file(exam, route.view)
        if path is None or not rest or names is None:
            continue
        if rest not in names:
            match = nearest(rest, names)
            near = said_near(match)
            yield exam.find(
                "routed.controller-absent",
                route.file,
                route.line,
                route=route.pattern or "",
                view=route.view.removeprefix(exam.module.name + "."),
                nearest=near,
            )


def _controller_file(exam: Examination, dotted: str) -> tuple[Path | None, set[str] | None, str]:
    """Return the file that holds a controller, the names it defines (None: cannot be told), and the wanted name."""
    parts = dotted.split(".")
    for cut in range(len(parts) - 1, 0, -1):
        path = exam.view.project.file_of(".".join(parts[:cut]))
        if path is None:
            continue
        source = exam.view.project.parse(path)
        if source is None or source.tree is None:
            return path, None, ""
        if any(getattr(node, "name", "") == parts[cut] for node in source.tree.body):
            return path, {parts[cut]}, parts[cut]  # most often: no need to look into all of the file
        names: set[str] = set()
        for node in nodes_of(source.tree):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
                names.add(node.name)
            elif isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
                names.add(node.id)
            elif isinstance(node, ast.Import | ast.ImportFrom):
                if any(alias.name == "*" for alias in node.names):
                    return path, None, ""
                names |= {alias.asname or alias.name.split(".")[0] for alias in node.names}
        if (path.name == "__init__.py") and (path.parent / f"{parts[cut]}.py").exists():
            return path, None, ""
        return path, names, parts[cut]
    return None, None, ""


def catch_all(exam: Examination) -> Iterator[Finding]:
    """The module's addresses are included behind one that catches all."""
    for caught, route in exam.view.behind_catch_all.get(exam.module.urls, ()):
        values = {"urls": exam.module.urls, "line_before": caught}
        yield exam.find("routed.behind-catch-all", route.file, route.line, **values)


def patterns(exam: Examination) -> Iterator[Finding]:
    """Patterns that can never match, or that name a class in place of a controller."""
    own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    for route in own.routes if own is not None else ():
        pattern = route.pattern or ""
        if pattern.startswith("/"):
            yield exam.find("routed.slash-first", route.file, route.line, route=pattern)
        elif not route.regular and (pattern.startswith("^") or pattern.endswith("$") or "(?P<" in pattern):
            yield exam.find("routed.expression-in-path", route.file, route.line, route=pattern)
        if route.bare and exam.owns(route.view) and not route.includes:
            path, _, name = _controller_file(exam, route.view)
            source = exam.view.project.parse(path) if path is not None else None
            node = class_named(source.tree, name) if source is not None and source.tree is not None else None
            if node is not None and any(spelled(base).endswith("View") for base in node.bases):
                view = route.view.removeprefix(exam.module.name + ".")
                yield exam.find("routed.class-not-instance", route.file, route.line, route=pattern, view=view)


def namespace(exam: Examination) -> Iterator[Finding]:
    """A namespace that another module has as well."""
    own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    if own is None or not own.app_name or own.app_name == exam.module.label or not exam.included:
        return
    for other in exam.view.modules:
        theirs = exam.view.addresses.file(other.urls) if other.urls and other.name != exam.module.name else None
        if theirs is not None and theirs.app_name == own.app_name and _is_included(exam, other.urls):
            line = own.app_name_line
            yield exam.find("routed.namespace-taken", own.path, line, namespace=own.app_name, other=other.name)


def _is_included(exam: Examination, dotted: str) -> bool:
    return bool(exam.view.addresses.including(dotted, exam.view.root_urls))


def names(exam: Examination) -> Iterator[Finding]:
    """Links by names that no address has."""
    view = exam.view
    own = view.addresses.file(exam.module.urls) if exam.module.urls else None
    if own is None or not own.app_name or not own.sure or any(route.includes for route in own.routes):
        return
    known = {f"{own.app_name}:{route.name}" for route in own.routes if route.name}
    for template in exam.module.templates:
        for tag in template.tags:
            name = tag.first_text if tag.name == "url" else None
            if name and name.partition(":")[0] == own.app_name and name not in known:
                match = nearest(name, known)
                near = said_near(match)
                yield exam.find("routed.name-absent", template.path, tag.line, name=name, nearest=near)


_BY_NAME = ("reverse", "reverse_lazy", "redirect", "resolve_url")


def names_in_code(exam: Examination) -> Iterator[Finding]:
    """Addresses that the module's code asks for by a name which the running host does not know.

    Code that the host has not loaded counts for nothing, nor does a namespace that a module declares but that the host
    does not include: what asks for it may be made for hosts that do, and the module itself is told to be left out.
    """
    assert exam.live is not None
    answer = exam.live.answers.get("address_names")
    if not answer or exam.live.stopped:  # without the module that stops the host its names are missing as well
        return
    known = answer["names"]
    included = {name.rpartition(":")[0] for name in known}
    for source in exam.sources:
        if exam.dotted(source.path) not in answer["loaded"]:
            continue
        for node in _calls_that_may_fail(source.tree) if source.tree is not None else ():
            name = node.args[0].value if node.args and isinstance(node.args[0], ast.Constant) else None
            called = spelled(node.func).rpartition(".")[2]
            if (
                called not in _BY_NAME
                or not isinstance(name, str)
                or any(key.arg == "urlconf" for key in node.keywords)
            ):
                continue
            if name in known or "." in name or (called in ("redirect", "resolve_url") and ("/" in name or not name)):
                continue
            namespace = name.rpartition(":")[0]
            if namespace and namespace not in included and _declares(exam, namespace):
                continue
            if not _is_last_part(name, known) and _gives_name(exam, name):
                continue  # to an address that other code may include
            match = nearest(name, known)
            near = said_near(match)
            yield exam.find("routed.name-absent", source.path, node.lineno, name=name, nearest=near)


def _is_last_part(name: str, known: Iterable[str]) -> bool:
    """True where an address has a name within a namespace: what asks for it has forgotten that."""
    return any(one.rpartition(":")[2] == name.rpartition(":")[2] for one in known)


def _gives_name(exam: Examination, name: str) -> bool:
    """True where the module's code gives an address a name, which the running host does not include."""
    return any(
        isinstance(node, ast.keyword)
        and node.arg == "name"
        and isinstance(node.value, ast.Constant)
        and node.value.value == name.rpartition(":")[2]
        for source in exam.sources
        if source.tree is not None and source.mentions("path(")
        for node in ast.walk(source.tree)
    )


def _declares(exam: Examination, namespace: str) -> bool:
    """True when a module's files name a namespace other than in front of an address."""
    return any(
        isinstance(node, ast.Constant) and node.value == namespace
        for module in exam.view.modules
        for source in exam.sources_of(module)
        if source.tree is not None
        for node in ast.walk(source.tree)
    )


def _calls_that_may_fail(tree: ast.AST) -> Iterator[ast.Call]:
    """Yield the calls of a file, but for those whose failure it expects."""
    waiting = [tree]
    while waiting:
        node = waiting.pop()
        if isinstance(node, ast.Call):
            yield node
        if isinstance(node, ast.Try) and any(_catches(one) for one in node.handlers):
            waiting += [*node.orelse, *node.finalbody]  # what comes after a failure is made for hosts that are others
        else:
            waiting.extend(ast.iter_child_nodes(node))


def _catches(handler: ast.ExceptHandler) -> bool:
    caught = ast.unparse(handler.type) if handler.type is not None else ""
    return not caught or "NoReverseMatch" in caught or caught in ("Exception", "BaseException")


def in_table(exam: Examination) -> Iterator[Finding]:
    """Addresses that the files show but the running host's table does not have."""
    assert exam.live is not None
    if "routes" not in exam.live.answers or exam.module.name in exam.live.stopped or exam.routes:
        return
    own = exam.view.addresses.file(exam.module.urls) if exam.module.urls else None
    mine = [route for route in own.routes if exam.owns(route.view)] if own else []
    if own is not None and mine:
        yield exam.find("routed.not-in-table", own.path, mine[0].line, count=len(mine), urls=exam.module.urls)


_NOWHERE = "no-page-of-any-module/7/"


def _answers_for_all(exam: Examination, path: str) -> Route | None:
    """Return the first of the root's routes that answers an address, where it answers for any other as well."""
    view = exam.view
    conf = view.addresses.file(view.root_urls) if view.root_urls else None
    first = next((one for one in conf.routes if answers(view.addresses, one, path.lstrip("/"))), None) if conf else None
    return first if first is not None and answers(view.addresses, first, _NOWHERE) else None


def shadowed(exam: Examination) -> Iterator[Finding]:
    """An address of the module that another controller answers."""
    for route in exam.routes:
        other = route.get("answers")
        if route.get("path") and other and other != route["view"]:
            declared = next((one_ for one_ in exam.addresses if one_.view == route["view"]), None)
            file = declared.route.file if declared else Path(route["file"] or "")
            line = declared.route.line if declared else route["line"]
            wall = _answers_for_all(exam, route["path"])
            file, line = (wall.file, wall.line) if wall is not None else (file, line)
            yield exam.find("routed.shadowed", file, line, path=route["path"], other=other)


STATIC = (included, controllers, catch_all, patterns, namespace, names)
LIVE = (in_table, shadowed, names_in_code)
