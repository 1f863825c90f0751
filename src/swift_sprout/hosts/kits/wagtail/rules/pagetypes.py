"""The page types of a module, as its files say them."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from ...django.examining.examination import Examination
from ...django.reading.code import meta_constant, spelled


class Said(NamedTuple):
    """A text in a file, and its line."""

    text: str
    line: int


class TypeFile(NamedTuple):
    """One page type: its name, where it stands, its bases, its own fields, and what its lists name.

    lists -- the texts in ``parent_page_types`` and the like, None for a list whose items are not all written out
    calls -- what panels and search fields name, by the function
    abstract -- True for one that only others are made of
    """

    name: str
    path: Path
    line: int
    bases: tuple[str, ...]
    fields: frozenset[str]
    lists: dict[str, list[Said] | None]
    calls: dict[str, list[Said]]
    names: frozenset[str]
    abstract: bool = False


def page_types(exam: Examination) -> list[TypeFile]:
    """Return the classes of a module that are pages, directly or over one another."""
    found = [
        (source.path, node)
        for source in exam.sources
        if source.tree is not None and source.mentions("Page")
        for node in source.tree.body
        if isinstance(node, ast.ClassDef)
    ]
    known: set[str] = set()
    types: list[TypeFile] = []
    pages = {"Page"}
    if any(source.mentions("wagtail.contrib.forms.models") for source in exam.sources):
        #  those of the host's own that are pages (7.4), where the module has no class of that name
        pages |= {"AbstractForm", "AbstractEmailForm"} - {node.name for _, node in found}
    for _ in range(4):  # a page type of a page type of a page type
        for path, node in found:
            bases = tuple(spelled(base).rpartition(".")[2] for base in node.bases)
            if node.name not in known and any(base in pages or base in known for base in bases):
                known.add(node.name)
                types.append(_read(path, node, bases))
    return types


def _read(path: Path, node: ast.ClassDef, bases: tuple[str, ...]) -> TypeFile:
    fields: set[str] = set()
    names: set[str] = set()
    lists: dict[str, list[Said] | None] = {}
    calls: dict[str, list[Said]] = {}
    for statement in node.body:
        if isinstance(statement, ast.FunctionDef | ast.AsyncFunctionDef):
            names.add(statement.name)
        if not isinstance(statement, ast.Assign | ast.AnnAssign):
            continue
        targets = statement.targets if isinstance(statement, ast.Assign) else [statement.target]
        for target in targets:
            if isinstance(target, ast.Name):
                names.add(target.id)
                value = statement.value
                if isinstance(value, ast.Call) and (
                    spelled(value.func).startswith("models.") or "Field" in spelled(value.func)
                ):
                    fields.add(target.id)
                if target.id in ("parent_page_types", "subpage_types") and value is not None:
                    lists[target.id] = _texts(value)
        for call in ast.walk(statement):
            if isinstance(call, ast.Call) and call.args and isinstance(call.args[0], ast.Constant):
                if isinstance(call.args[0].value, str):
                    function = spelled(call.func).rpartition(".")[2]
                    calls.setdefault(function, []).append(Said(call.args[0].value, call.lineno))
    abstract = meta_constant(node, "abstract") is True
    return TypeFile(node.name, path, node.lineno, bases, frozenset(fields), lists, calls, frozenset(names), abstract)


def _texts(value: ast.expr) -> list[Said] | None:
    if not isinstance(value, ast.List | ast.Tuple):
        return None
    found = [
        Said(item.value, item.lineno)
        for item in value.elts
        if isinstance(item, ast.Constant) and isinstance(item.value, str)
    ]
    return found if len(found) == len(value.elts) else None


def types_of_host(exam: Examination) -> Iterator[tuple[str, str]]:
    """Yield label and name of every page type of the host's own modules."""
    for module in exam.view.modules:
        other = exam if module is exam.module else Examination(exam.view, module)
        for found in page_types(other):
            yield module.label, found.name
