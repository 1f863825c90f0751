"""The routes of a module's routers, as their files say them."""

from __future__ import annotations

import ast
from typing import NamedTuple

from .code import CodeClass, spelled
from .modules import ModuleFiles

PROGRAMS = "programs with a key"


class Route(NamedTuple):
    """One rule of a route: the router's class and name, the method that answers, the rule, and its decorators.

    router, method -- empty where the code works them out
    rule -- below the router's own address, or absolute where it begins with a slash
    """

    owner: CodeClass
    router: str
    method: str
    rule: str
    methods: tuple[str, ...]
    decorators: tuple[str, ...]
    line: int

    def path(self, database: str) -> str:
        """Return the address in a database."""
        if self.rule.startswith("/"):
            return self.rule.replace("<database_name>", database)
        return f"/{database}/r/{self.router or '…'}" + (f"/{self.rule}" if self.rule else "")

    @property
    def open_to(self) -> str:
        """Who is let in, as the decorators tell."""
        text = " ".join(self.decorators)
        if "staff_only" in text:
            return "administrators"
        for name in ("needs_right(", "needs("):
            if name in text:
                inside = text.partition(name)[2].partition(")")[0].replace("'", "").replace('"', "")
                return f"holders of {inside.replace(', ', ' ')}"
        if "user_application(" in text:
            return PROGRAMS
        if any(word in text for word in ("SIGNED_IN", "auth_required", "session_valid")):
            return "people signed in"
        return "anyone"


def routes_of(module: ModuleFiles) -> list[Route]:
    """Return the rules of all routers of a module, in the order of the files."""
    if module.routes is None:
        files = [file for file in module.code_files if b"__routes__" in file.content]
        routers = [(one, file.tree) for file in files for one in file.classes.values()]
        module.routes = [route for one, tree in routers for route in _routes_in(one, tree)]
    return module.routes


def _routes_in(code_class: CodeClass, file: ast.Module | None) -> list[Route]:
    found = []
    #  a decorator that is made beside the router, and then named
    made = {
        spelled(node.targets[0]): ast.unparse(node.value)
        for node in (file.body if file is not None else ())
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.Call)
    }
    pairs: list[tuple[ast.expr | None, ast.expr]] = []
    for node in ast.walk(code_class.node):
        if isinstance(node, ast.Dict):
            pairs += [(key, value) for key, value in zip(node.keys, node.values, strict=True)]
        elif isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Subscript):
            pairs.append((node.targets[0].slice, node.value))
    for key, value in pairs:
        if not (isinstance(value, ast.Call) and spelled(value.func).rpartition(".")[2] == "Route"):
            continue
        name = key.value if isinstance(key, ast.Constant) and isinstance(key.value, str) else ""
        decorators = tuple(
            made.get(text := ast.unparse(item), text)
            for word in value.keywords
            if word.arg == "decorators" and isinstance(word.value, ast.List)
            for item in word.value.elts
        )
        for rule in value.args:
            if isinstance(rule, ast.Call) and rule.args and isinstance(rule.args[0], ast.Constant):
                if any(word.arg == "redirect_to" for word in rule.keywords):
                    continue
                methods = next((_texts(word.value) for word in rule.keywords if word.arg == "methods"), ("GET",))
                found.append(
                    Route(code_class, code_class.model, name, str(rule.args[0].value), methods, decorators, rule.lineno)
                )
    return sorted(found, key=lambda route: route.line)


def _texts(node: ast.expr) -> tuple[str, ...]:
    elements = node.elts if isinstance(node, ast.Set | ast.List | ast.Tuple) else []
    return tuple(one.value for one in elements if isinstance(one, ast.Constant) and isinstance(one.value, str))
