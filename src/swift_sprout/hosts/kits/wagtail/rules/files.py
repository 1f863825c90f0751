"""What the files of a module tell: hooks that are never read, page types that name what is not there, lost panels."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from .....core.nearest import misspelt, near_text, nearest
from ....contract.kitdata import matches
from ...django.examining.examination import Examination
from ...django.facts import django
from ...django.reading.code import spelled
from ..facts import wagtail
from .pagetypes import TypeFile, page_types, types_of_host

if TYPE_CHECKING:
    from .....core.findings import Finding


#  bases of page types that bring no fields but those which every page has
WITHOUT_FIELDS = ("Page", "RoutablePageMixin", "PreviewableMixin")


def hooks(exam: Examination) -> Iterator[Finding]:
    """Hooks in a file that the host does not read, and hooks that the host does not have."""
    own = wagtail(exam.view.data)
    since, version = own.hooks_since, exam.view.version
    known = [name for name in own.hooks if not version or matches(version, since.get(name, ""))]
    for source in exam.sources:
        if source.tree is None or not source.mentions("wagtail"):
            continue
        for name, line in _registered(source.tree):
            top = source.path.parent == exam.module.folder
            read = top and source.path.name == own.hooks_file
            if (
                top
                and not read
                and nearest(source.path.stem, ["wagtail_hooks", "hooks"])
                and not _imported(exam, source.path.stem)
            ):
                yield exam.find("registered.hooks-file", source.path, line, wanted=own.hooks_file)
                break
            if name and name not in known and (misspelt(name, known) or name in own.hooks):
                near = near_text(name, known)
                yield exam.find("registered.hook-unknown", source.path, line, name=name, near=near)


def _registered(tree: ast.Module) -> Iterator[tuple[str, int]]:
    """Yield the name of each hook that a file registers, and its line; empty for what registers without one."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Call):
            function = spelled(node.func)
            if function in ("hooks.register", "wagtail.hooks.register") and node.args:
                first = node.args[0]
                yield (
                    (first.value if isinstance(first, ast.Constant) and isinstance(first.value, str) else ""),
                    node.lineno,
                )
            elif function.rpartition(".")[2] == "register_snippet":
                yield "", node.lineno


def _imported(exam: Examination, stem: str) -> bool:
    """True when another file of the module imports one of its files, so that it is read all the same."""
    return any(
        isinstance(node, ast.ImportFrom)
        and (stem in (node.module or "").split(".") or stem in {name.name for name in node.names})
        for source in exam.sources
        if source.tree is not None and source.path.stem != stem and source.mentions(stem)
        for node in ast.walk(source.tree)
    )


def types(exam: Examination) -> Iterator[Finding]:
    """Page types that name others which are not there, fields that they do not have, and templates that are nowhere."""
    found = page_types(exam)
    if not found:
        return
    known = set(types_of_host(exam)) | {("wagtailcore", "Page"), ("wagtailcore", "page")}
    labels = {module.label for module in exam.view.modules} | {"wagtailcore"}
    by_name = {each.name: each for each in found}
    for each in found:
        for key, said in each.lists.items():
            for text in said or ():
                label, dot, name = text.text.rpartition(".")
                label = label if dot else exam.module.label
                if (
                    label in labels
                    and not any(label == other and name.lower() == type_name.lower() for other, type_name in known)
                    and not _may_be_page(exam, label, name)
                ):
                    near = near_text(name, [type_name for _, type_name in known])
                    yield exam.find(
                        "registered.page-type-unknown",
                        each.path,
                        text.line,
                        owner=each.name,
                        key=key,
                        name=text.text,
                        near=near,
                    )
        yield from _fields(exam, each, by_name)
        yield from _template(exam, each)


def _may_be_page(exam: Examination, label: str, name: str) -> bool:
    """True for a page type of the running host, or a class whose bases the files do not tell to be no pages."""
    tree = (exam.live.answers.get("tree") or {}) if exam.live is not None else {}
    if [label, name.lower()] in tree.get("types", ()):
        return True
    for module in (one for one in exam.view.modules if one.label == label):
        other = exam if module is exam.module else Examination(exam.view, module)
        for source in other.sources:
            for node in source.tree.body if source.tree is not None and source.mentions(name) else ():
                if isinstance(node, ast.ClassDef) and node.name.lower() == name.lower():
                    return not all(spelled(base) in _NO_PAGES for base in node.bases)
    return False


_NO_PAGES = ("models.Model", "Model", "Orderable", "ClusterableModel", "AbstractFormField", "object")


def _fields(exam: Examination, each: TypeFile, by_name: dict[str, TypeFile]) -> Iterator[Finding]:
    """Panels and search fields of fields that a page type does not have."""
    of_host = django(exam.view.data).page_type
    names = {*each.names, *(of_host.reserved_fields if of_host is not None else ())}
    waiting = list(each.bases)
    sure = True
    while waiting:
        base = waiting.pop()
        if base in by_name:
            names |= by_name[base].names
            waiting += by_name[base].bases
        elif base not in WITHOUT_FIELDS:
            sure = False  # a class of another module may bring fields
    for function, code in _NAMING:
        for said in each.calls.get(function, ()):
            if sure and said.text not in names and "__" not in said.text:
                near = near_text(said.text, names)
                yield exam.find(
                    code,
                    each.path,
                    said.line,
                    owner=each.name,
                    field=said.text,
                    near=near,
                )


#  what names a field, with the code for one that is not there
_NAMING = (
    ("FieldPanel", "placed.panel-unknown"),
    ("SearchField", "placed.search-unknown"),
    ("AutocompleteField", "placed.search-unknown"),
    ("FilterField", "placed.search-unknown"),
)


def _template(exam: Examination, each: TypeFile) -> Iterator[Finding]:
    """A page type whose template is nowhere: the host looks for it by the type's name."""
    if {"template", "get_template", "serve", "landing_page_template", "is_creatable"} & each.names or each.abstract:
        return
    if each.lists.get("parent_page_types") == []:
        return  # editors can make none
    snake = re.sub(r"(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", "_", each.name).lower()
    name = f"{exam.module.label}/{snake}.html"
    if not exam.view.templates.named(name):
        folder = exam.module.folder / "templates" / exam.module.label
        near = near_text(f"{snake}.html", [path.name for path in folder.glob("*.html")])
        yield exam.find("served.page-template-absent", each.path, each.line, owner=each.name, template=name, near=near)


def lost(exam: Examination) -> Iterator[Finding]:
    """Lists that take the place of the host's own, so that what every page has is gone."""
    for source in exam.sources:
        if source.tree is None or not source.mentions("content_panels", "search_fields"):
            continue
        names = {each.name for each in page_types(exam) if each.path == source.path and not each.abstract}
        for node in source.tree.body:
            if not isinstance(node, ast.ClassDef) or node.name not in names:
                continue
            for statement in node.body:
                if isinstance(statement, ast.Assign) and isinstance(statement.targets[0], ast.Name):
                    key = statement.targets[0].id
                    text = ast.unparse(statement.value)
                    if text in ("[]", "()"):
                        continue  # said on purpose
                    if key == "content_panels" and "content_panels" not in text and "title" not in text.lower():
                        yield exam.find("placed.title-panel-lost", source.path, statement.lineno, owner=node.name)
                    elif key == "search_fields" and "search_fields" not in text:
                        yield exam.find("placed.search-fields-lost", source.path, statement.lineno, owner=node.name)


def shut(exam: Examination) -> Iterator[Finding]:
    """Page types of which no page may be made, because as many as none are allowed."""
    found = {(each.path, each.name) for each in page_types(exam)}
    for source in exam.sources if found else ():
        for node in source.tree.body if source.tree is not None and source.mentions("max_count") else ():
            if not isinstance(node, ast.ClassDef) or (source.path, node.name) not in found:
                continue
            for statement in node.body:
                target = statement.targets[0] if isinstance(statement, ast.Assign) else None
                value = statement.value if isinstance(statement, ast.Assign) else None
                if not isinstance(target, ast.Name) or target.id not in ("max_count", "max_count_per_parent"):
                    continue
                if isinstance(value, ast.Constant) and value.value == 0:
                    values = {"type": node.name, "key": target.id}
                    yield exam.find("placed.page-type-shut", source.path, statement.lineno, **values)


RULES = (hooks, types, lost, shut)
