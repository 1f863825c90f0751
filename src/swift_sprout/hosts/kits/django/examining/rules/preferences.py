"""Enabled: the settings that the module's code asks for are set."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterable, Iterator

from ......core.findings import Finding
from ......core.nearest import near_text, nearest
from ...reading.code import nodes_of
from ...reading.project import Source
from ..examination import Examination
from ..settings import names_known


def unset(exam: Examination) -> Iterator[Finding]:
    """Settings that nothing sets but that another one is named like, from the files alone."""
    if exam.live is not None and not exam.live.failure:
        return  # the running host knows better
    known = names_known(exam.view) or set()
    for source, name, line in _asked(exam) if known else ():
        if name not in known and nearest(name, known):
            yield exam.find("enabled.setting-absent", source.path, line, name=name, near=near_text(name, known))


def unset_when_run(exam: Examination) -> Iterator[Finding]:
    """Settings that the running host does not have."""
    assert exam.live is not None
    known = (exam.live.answers.get("address_names") or {}).get("settings") or ()
    for source, name, line in _asked(exam) if known else ():
        if name not in known:
            yield exam.find("enabled.setting-absent", source.path, line, name=name, near=near_text(name, known))


def _asked(exam: Examination) -> Iterator[tuple[Source, str, int]]:
    """Yield the settings that loaded code asks for without caring whether they are there."""
    sets_own = any(source.mentions("AppConf)") for source in exam.sources)  # a class whose members become settings
    own = f"{exam.module.label.upper()}_" if sets_own else None
    for source in exam.loaded:
        if source.tree is None or not source.mentions("django.conf") or not _asks_the_host(source.tree):
            continue
        expected = _expected_absent(source.tree)
        for node in nodes_of(source.tree):
            if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name) and node.value.id == "settings":
                if own is not None and node.attr.startswith(own):
                    continue
                if node.attr.isupper() and isinstance(node.ctx, ast.Load) and node.attr not in expected:
                    yield source, node.attr, node.lineno


def _asks_the_host(tree: ast.AST) -> bool:
    """True for a file in which ``settings`` is the host's: packages have files of their own of that name."""
    imports = [node for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)]
    binding = [one for one in imports for alias in one.names if (alias.asname or alias.name) == "settings"]
    return bool(binding) and all(one.module == "django.conf" and not one.level for one in binding)


_VERSION = re.compile(r"\bVERSION\b|\bversion_info\b|\bget_version\b")


def _expected_absent(tree: ast.AST) -> set[str]:
    """Return the names that a file asks for with a default somewhere, tests for, sets, or expects to be missing."""
    found: set[str] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and len(node.args) > 1:
            if node.func.id in ("getattr", "hasattr", "setattr") and isinstance(node.args[1], ast.Constant):
                found.add(str(node.args[1].value))
        elif isinstance(node, ast.Attribute) and isinstance(node.ctx, ast.Store):
            found.add(node.attr)
        elif isinstance(node, ast.Try):
            found.update(_names_in([*node.body, *node.handlers]))
        elif isinstance(node, ast.If | ast.IfExp | ast.BoolOp):  # made for another version of something
            test = node if isinstance(node, ast.BoolOp) else node.test
            found.update(_names_in([node]) if _VERSION.search(ast.unparse(test)) else ())
    return found


def _names_in(body: Iterable[ast.AST]) -> Iterator[str]:
    for statement in body:
        for node in ast.walk(statement):
            if isinstance(node, ast.Attribute):
                yield node.attr


STATIC = (unset,)
LIVE = (unset_when_run,)
