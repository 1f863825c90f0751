"""Permitted: guards that name what exists, are really asked, and let in whom they say."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from ...reading.code import class_named, function_named, nodes_of, permissions_named, spelled
from ...reading.project import Source
from ..examination import Examination

MIXINS = ("LoginRequiredMixin", "PermissionRequiredMixin", "UserPassesTestMixin")
DECORATORS = ("login_required", "permission_required", "user_passes_test", "staff_member_required")


def permissions(exam: Examination) -> Iterator[Finding]:
    """Permissions that no module of the host brings."""
    for source in exam.sources:
        for said in permissions_named(source.tree) if source.tree is not None and source.mentions("perm") else ():
            label, dot, _ = said.text.partition(".")
            if not dot or label not in exam.view.labels:
                continue
            known = exam.view.permissions(label)
            if known is not None and said.text not in known and not _made_by_hand(exam, label, said.text):
                match = nearest(said.text, known)
                near = said_near(match)
                values = {"permission": said.text, "nearest": near}
                yield exam.find("permitted.permission-unknown", source.path, said.line, **values)


def _made_by_hand(exam: Examination, label: str, permission: str) -> bool:
    """True when a migration of the module that should bring a permission names it: it is made as a row there."""
    module = exam.view.labels.get(label)
    name = permission.partition(".")[2]
    migrations = (module.folder / "migrations").glob("*.py") if module is not None else ()
    made = re.compile(rf"codename\s*=\s*[\"']{re.escape(name)}[\"']")
    return any(made.search(path.read_text("utf-8", "replace")) for path in migrations)


def codenames(exam: Examination) -> Iterator[Finding]:
    """Rows of permissions that code looks for by a codename which the database has not, but one that is like it."""
    assert exam.live is not None
    known = (exam.live.answers.get("rights") or {}).get("codenames") or ()
    migrations = [f"{exam.module.place}/migrations/{name}.py" for name in exam.migrations]
    sources = [*exam.sources, *(source for one in migrations if (source := exam.view.project.parse(one)))]
    looked_for = [said for source in sources if known for said in _codenames(source)]
    made = {name for name, _, _, is_made in looked_for if is_made}
    for name, path, line, _ in looked_for:
        match = nearest(name, known)
        if name not in known and name not in made and match:
            yield exam.find("permitted.codename-unknown", path, line, name=name, nearest=match)


def _codenames(source: Source) -> Iterator[tuple[str, Path, int, bool]]:
    """Yield the codenames that calls of a file name: the text, its place, and whether a row is made with it."""
    for node in nodes_of(source.tree) if source.tree is not None and source.mentions("codename") else ():
        if not isinstance(node, ast.Call):
            continue
        is_made = spelled(node.func).rpartition(".")[2] not in ("filter", "get", "exclude")
        for key in node.keywords:
            if key.arg not in ("codename", "codename__in"):
                continue
            for one in ast.walk(key.value):
                if isinstance(one, ast.Constant) and isinstance(one.value, str):
                    yield one.value, source.path, one.lineno, is_made


def order_of_bases(exam: Examination) -> Iterator[Finding]:
    """A guard named behind the class that it shall guard."""
    for source in exam.sources:
        for node in source.tree.body if source.tree is not None and source.mentions(*MIXINS) else ():
            if not isinstance(node, ast.ClassDef):
                continue
            bases = [spelled(base).rsplit(".", 1)[-1] for base in node.bases]
            for index, base in enumerate(bases):
                before = [other for other in bases[:index] if other.endswith("View")]
                if base in MIXINS and before:
                    values = {"view": node.name, "guard": base, "base": before[0]}
                    yield exam.find("permitted.guard-behind", source.path, node.lineno, **values)


def open_guards(exam: Examination) -> Iterator[Finding]:
    """A controller that names a guard somewhere, but let a visitor in."""
    for asked in exam.asked:
        served_by = asked.answer.headers.get("x-sprout-view", "")
        if asked.who != "visitor" or not 200 <= asked.answer.status < 300 or served_by != asked.route["view"]:
            continue
        node, path = _definition(exam, asked.route["view"])
        if node is not None and path is not None and _names_guard(node):
            values = {"view": node.name, "status": asked.answer.status}
            yield exam.find("permitted.guard-open", path, node.lineno, **values)


def holders(exam: Examination) -> Iterator[Finding]:
    """Somebody with just the permission that a guard names is turned away, while a superuser is let in."""
    by_path: dict[str, dict[str, int]] = {}
    routes = {}
    for asked in exam.asked:
        by_path.setdefault(asked.path, {})[asked.who] = asked.answer.status
        routes[asked.path] = asked.route
    for path, statuses in by_path.items():
        permission = routes[path].get("permission")
        held, superuser = statuses.get("holder", 200), statuses.get("superuser", 0)
        if permission and held >= 300 and 200 <= superuser < 300 and _known(exam, permission):
            node, file = _definition(exam, routes[path]["view"])
            line = node.lineno if node is not None else routes[path]["line"]
            values = {"permission": permission, "path": path, "status": held}
            yield exam.find("permitted.holder-refused", file or Path(routes[path]["file"]), line, **values)


def _known(exam: Examination, permission: str) -> bool:
    known = exam.view.permissions(permission.partition(".")[0])
    return known is None or permission in known


Controller = ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef


def _definition(exam: Examination, dotted: str) -> tuple[Controller | None, Path | None]:
    module, _, name = dotted.rpartition(".")
    path = exam.view.project.file_of(module)
    source = exam.view.project.parse(path) if path is not None else None
    if source is None or source.tree is None:
        return None, path
    return class_named(source.tree, name) or function_named(source.tree, name), path


def _names_guard(node: Controller) -> bool:
    """True when the controller itself names a guard: as a base, a decorator, or a call in its body."""
    if isinstance(node, ast.ClassDef):
        return any(spelled(base).rsplit(".", 1)[-1] in MIXINS for base in node.bases) and not any(
            isinstance(inner, ast.FunctionDef) and inner.name in ("test_func", "dispatch", "has_permission")
            for inner in node.body
        )
    called = [spelled(inner.func).rsplit(".", 1)[-1] for inner in ast.walk(node) if isinstance(inner, ast.Call)]
    named = [ast.unparse(one).partition("(")[0].rsplit(".", 1)[-1] for one in node.decorator_list]
    return bool(set(DECORATORS) & {*called, *named}) and "user_passes_test" not in {*called, *named}


STATIC = (permissions, order_of_bases)
LIVE = (open_guards, holders, codenames)
