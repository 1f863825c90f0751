"""How pages are drawn: what they hand to their templates, mixins that must stand in front, and templates of blocks."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from typing import TYPE_CHECKING

from .....core.nearest import near_text
from ...django.reading.code import spelled
from .pagetypes import page_types

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination

#  mixins that change how a page is found or served, and must stand before the page that they change
IN_FRONT = ("RoutablePageMixin", "AbstractEmailForm", "PreviewableMixin")


def pages(exam: Examination) -> Iterator[Finding]:
    """Page types whose methods forget what the host's own do, and whose mixins stand behind the page."""
    names = {(found.path, found.name) for found in page_types(exam)}
    for source in exam.sources:
        if source.tree is None or not source.mentions("Page"):
            continue
        for node in source.tree.body:
            if not isinstance(node, ast.ClassDef) or (source.path, node.name) not in names:
                continue
            bases = [spelled(base).rpartition(".")[2] for base in node.bases]
            for index, base in enumerate(bases):
                if base in IN_FRONT and any(other.endswith("Page") for other in bases[:index]):
                    values = {"owner": node.name, "mixin": base, "page": bases[0]}
                    yield exam.find("routed.mixin-behind", source.path, node.lineno, **values)
            for method in node.body:
                if isinstance(method, ast.FunctionDef) and method.name == "get_context":
                    if "get_context(" not in ast.unparse(method).partition("\n")[2]:
                        yield exam.find("served.context-lost", source.path, method.lineno, owner=node.name)


def blocks(exam: Examination) -> Iterator[Finding]:
    """Blocks of structured content whose template is nowhere: it is looked for only when one is shown."""
    for source in exam.sources:
        if source.tree is None or not source.mentions("Block"):
            continue
        for node in source.tree.body:
            if not isinstance(node, ast.ClassDef) or not any(spelled(base).endswith("Block") for base in node.bases):
                continue
            meta = next(
                (inner for inner in node.body if isinstance(inner, ast.ClassDef) and inner.name == "Meta"), None
            )
            for statement in meta.body if meta is not None else ():
                if not isinstance(statement, ast.Assign) or ast.unparse(statement.targets[0]) != "template":
                    continue
                name = statement.value.value if isinstance(statement.value, ast.Constant) else None
                if isinstance(name, str) and not exam.view.templates.named(name) and _own(exam, name):
                    near = near_text(name, [template.name for template in exam.module.templates])
                    yield exam.find(
                        "served.block-template-absent",
                        source.path,
                        statement.lineno,
                        owner=node.name,
                        template=name,
                        near=near,
                    )


def _own(exam: Examination, name: str) -> bool:
    """True for a template that would lie in one of the host's own modules, not in a package that is installed."""
    first = name.partition("/")[0]
    return first == exam.module.label or not exam.view.has_foreign_modules or not name.startswith("wagtail")


def types_together(exam: Examination) -> Iterator[Finding]:
    """Two types of the module of which one lets the other stand below it, and the other does not let itself."""
    found = {each.name: each for each in page_types(exam)}
    for each in found.values():
        for text in each.lists.get("subpage_types") or ():
            label, dot, name = text.text.rpartition(".")
            below = found.get(name)
            if below is None or (dot and label != exam.module.label):
                continue
            parents = below.lists.get("parent_page_types")
            allowed = {said.text.rpartition(".")[2] for said in parents} if parents is not None else None
            if allowed is not None and each.name not in allowed:
                line = parents[0].line if parents else below.line
                values = {"below": below.name, "above": each.name}
                yield exam.find("registered.types-disagree", below.path, line, **values)


RULES = (pages, blocks, types_together)
