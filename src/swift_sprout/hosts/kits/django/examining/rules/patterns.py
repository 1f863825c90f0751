"""Routed, from the files: patterns and names in a module's table of addresses that do not do what is meant."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator

from ......core.findings import Finding
from ......core.nearest import near_text
from ...reading.addresses import AddressFile, Route
from ...reading.code import spelled
from ..examination import Examination

_CONVERTERS = {"int", "str", "slug", "uuid", "path"}  # django.urls.converters (Django 5.2)
_PARAMETER = re.compile(r"<(?:(\w+):)?(\w+)>")


def converters(exam: Examination) -> Iterator[Finding]:
    """Parameters of a kind that nobody has registered."""
    own = _own(exam)
    asked = (
        [(route, kind) for route in own.routes if own and not route.regular for kind in _kinds(route)] if own else []
    )
    unknown = [(route, kind) for route, kind in asked if kind not in _CONVERTERS]
    known = _registered(exam) if unknown else set()
    for route, kind in unknown:
        if known is not None and kind not in known:
            near = near_text(kind, known | _CONVERTERS)
            yield exam.find("routed.converter-unknown", route.file, route.line, converter=kind, near=near)


def _kinds(route: Route) -> list[str]:
    return [kind for kind, _ in _PARAMETER.findall(route.pattern or "") if kind]


def _registered(exam: Examination) -> set[str] | None:
    """Return the kinds of parameters that the host's own files register; None where one is not written out."""
    found: set[str] = set()
    root = exam.view.project.file_of(exam.view.root_urls) if exam.view.root_urls else None
    sources = [source for module in exam.view.modules for source in exam.sources_of(module)]
    if root is not None and (source := exam.view.project.parse(root)) is not None:
        sources.append(source)
    for source in sources:
        if source.tree is None or not source.mentions("register_converter"):
            continue
        for node in ast.walk(source.tree):
            if isinstance(node, ast.Call) and spelled(node.func).endswith("register_converter"):
                name = node.args[1] if len(node.args) > 1 else None
                if not isinstance(name, ast.Constant):
                    return None
                found.add(str(name.value))
    return found


def open_prefixes(exam: Examination) -> Iterator[Finding]:
    """Addresses that are put together without a slash between the prefix and the rest."""
    own = _own(exam)
    if own is None or not exam.view.root_urls:
        return
    inner = [route.pattern for route in own.routes if route.pattern and not route.regular]
    for route in exam.view.addresses.including(exam.module.urls, exam.view.root_urls):
        prefix = route.pattern or ""
        if prefix and not route.regular and prefix[-1].isalnum() and any(one[:1].isalnum() for one in inner):
            values = {"prefix": prefix, "example": f"/{prefix}{next(one for one in inner if one[:1].isalnum())}"}
            yield exam.find("routed.prefix-open", route.file, route.line, **values)


def twice(exam: Examination) -> Iterator[Finding]:
    """A name that two addresses have, while a link of the module asks for one that none has."""
    own = _own(exam)
    if own is None or not own.app_name or not own.sure or any(route.includes for route in own.routes):
        return
    names = {route.name for route in own.routes if route.name}
    asked = {
        text.rpartition(":")[2]
        for template in exam.module.templates
        for tag in template.tags
        if tag.name == "url" and (text := tag.whole_text) and text.rpartition(":")[0] == own.app_name
    }
    first: dict[tuple[str, tuple[str, ...]], Route] = {}
    for route in own.routes:
        shape = route.name, tuple(sorted(name for _, name in _PARAMETER.findall(route.pattern or "")))
        other = first.setdefault(shape, route)
        if route.name and other is not route and other.view != route.view and asked - names:
            values = {"name": route.name, "first_line": other.line, "asked": ", ".join(sorted(asked - names))}
            yield exam.find("routed.name-twice", route.file, route.line, **values)


def name_of_space(exam: Examination) -> Iterator[Finding]:
    """Links that ask for the module's addresses under its own name, which its table of addresses does not say."""
    own, label = _own(exam), exam.module.label
    if own is None or not own.sure or own.app_name == label or not exam.included or not own.routes:
        return
    if not own.app_name_told:
        return
    if label in exam.view.labels and _says(exam, label):
        return
    for template in exam.view.templates.all:
        for tag in template.tags:
            text = tag.whole_text if tag.name == "url" else None
            if text and text.partition(":")[0] == label and ":" in text:
                line = own.app_name_line or 1
                values = {"asked": label, "said": own.app_name}
                yield exam.find("routed.namespace-other", own.path, line, **values)
                return


def _says(exam: Examination, namespace: str) -> bool:
    """True when a file that includes addresses gives the namespace to one of them."""
    root = exam.view.project.file_of(exam.view.root_urls) if exam.view.root_urls else None
    files = [root] if root is not None else []
    files += [conf.path for one in exam.view.modules if one.urls and (conf := exam.view.addresses.file(one.urls))]
    for path in files:
        source = exam.view.project.parse(path)
        for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
            if isinstance(node, ast.Call) and spelled(node.func).rpartition(".")[2] == "include":
                given = [*node.keywords, *(one for one in node.args if isinstance(one, ast.Tuple))]
                if any(
                    isinstance(one, ast.Constant) and one.value == namespace for each in given for one in ast.walk(each)
                ):
                    return True
    return False


def _own(exam: Examination) -> AddressFile | None:
    return exam.view.addresses.file(exam.module.urls) if exam.module.urls else None


STATIC = (converters, open_prefixes, twice, name_of_space)
