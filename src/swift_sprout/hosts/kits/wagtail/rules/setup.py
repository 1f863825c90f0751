"""What the host itself must have for modules with pages: apps that are listed, addresses that are included."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ...django.facts import django
from ...django.reading.entries import package_of
from ..facts import wagtail
from .pagetypes import page_types

if TYPE_CHECKING:
    from .....core.findings import Finding
    from ...django.examining.examination import Examination


#  files that the host reads whenever a module is enabled
ALWAYS_READ = ("models.py", "page_types.py", "site_settings.py", "blocks.py", "wagtail_hooks.py")


def apps(exam: Examination) -> Iterator[Finding]:
    """Apps of the host that the module takes things from, and that are not listed: what they bring is not there."""
    listed = {package_of(entry.value) for entry in exam.view.listed}
    known = wagtail(exam.view.data).contrib
    if not listed or not exam.view.list_is_sure:
        return
    for source in exam.sources:
        read = source.path.parent == exam.module.folder and source.path.name in ALWAYS_READ
        for node in source.tree.body if read and source.tree is not None else ():
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("wagtail.contrib."):
                name = ".".join((node.module or "").split(".")[:3])
                if name in known and name not in listed:
                    yield exam.find("compatible.contrib-absent", source.path, node.lineno, name=name)


def library(exam: Examination) -> Iterator[Finding]:
    """Relations to the host's own pictures or documents where the host has a type of its own for them."""
    settings = exam.view.settings
    for key, usual in wagtail(exam.view.data).library.items():
        said = settings.plain(key, "") if settings is not None else ""
        if not isinstance(said, str) or not said or said.lower() == usual.lower():
            continue
        for path, node in exam.model_classes():
            for inner in ast.walk(node):
                if (
                    isinstance(inner, ast.Constant)
                    and isinstance(inner.value, str)
                    and inner.value.lower() == usual.lower()
                ):
                    yield exam.find(
                        "compatible.library-type", path, inner.lineno, said=inner.value, wanted=said, key=key
                    )


def addresses(exam: Examination) -> Iterator[Finding]:
    """A host whose addresses include no pages of the tree: none of them can be called."""
    types = page_types(exam)
    conf = exam.view.addresses.file(exam.view.root_urls) if exam.view.root_urls else None
    if not types or conf is None or not conf.routes or not conf.sure:
        return
    source = exam.view.project.parse(conf.path)
    text = source.source.text if source is not None and source.source is not None else "wagtail"
    text = re.sub(r"(?m)^\s*(?:from|import)\b.*$", "", text)  # an import alone includes nothing
    if not any(route.includes in django(exam.view.data).catch_all for route in conf.routes):
        if "wagtail.urls" not in text and "wagtail_urls" not in text and "serve_pattern" not in text:
            yield exam.find("routed.pages-not-included", conf.path, conf.routes[-1].line, count=len(types))


RULES = (apps, library, addresses)
