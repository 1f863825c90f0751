"""Registered: the host's list of modules."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from ..examination import Examination


def registration(exam: Examination) -> Iterator[Finding]:
    """The module's entry in INSTALLED_APPS: missing, doubled, conditional, or naming a class that is not there."""
    view, module = exam.view, exam.module
    mine = view.entries_of(module)
    if not mine:
        yield from _not_listed(exam)
        return
    certain = [entry for entry in mine if not entry.conditional]
    if not certain:
        yield exam.find("registered.listed-conditionally", mine[0].file, mine[0].line)
    elif len(certain) > 1:
        yield exam.find("registered.listed-twice", certain[1].file, certain[1].line, count=len(certain))
    for entry in mine:
        _, apps, name = entry.value.removeprefix(module.name).partition(".apps.")
        if apps and name not in {config.name for config in module.configs} and module.has("apps.py"):
            there = ", ".join(f"{module.name}.apps.{config.name}" for config in module.configs) or "none"
            yield exam.find(
                "registered.class-absent",
                entry.file,
                entry.line,
                entry=entry.value,
                name=name,
                file_name=view.relative(module.folder / "apps.py"),
                there=there,
            )


def _not_listed(exam: Examination) -> Iterator[Finding]:
    view, module = exam.view, exam.module
    if view.settings is None or not module.folder.name.isidentifier():
        return
    value = view.settings.get("INSTALLED_APPS")
    if exam.live is not None and exam.registered_as is not None:
        return  # listed in a way that reading cannot tell; the running host has it
    if not exam.host_answers and module.config is not None and module.config.name_is_worked_out:
        yield exam.find("registered.unsure", module.folder / "apps.py", module.config.line)
        return
    joined = list(_joined(exam))
    yield from joined
    if not exam.host_answers and not joined and not view.list_is_sure:
        if view.settings.path is not None:
            place = (value.file, value.line) if value is not None else (view.settings.path, 0)
            yield exam.find("registered.unsure", *place)
        return
    elsewhere = list(_elsewhere(exam))
    if elsewhere and _in_some_cases(exam):
        return  # the settings that list it and the addresses agree, as with a tool for developers
    yield from elsewhere
    yield from _overwritten(exam)
    where = value.literals[-1] if value is not None and value.literals else None
    file = where.file if where else view.settings.path
    if file is not None:
        yield exam.find("registered.not-listed", file, where.node.lineno if where else 0)


def _joined(exam: Examination) -> Iterator[Finding]:
    """An entry that Python joined with its neighbour because a comma is missing."""
    for entry in exam.view.listed:
        name = exam.module.name
        if entry.value != name and (entry.value.startswith(name) or entry.value.endswith(name)):
            if not exam.view.project.folder_of(entry.value) and _is_joined(exam, entry.file, entry.line):
                first = name if entry.value.startswith(name) else entry.value.removesuffix(name)
                yield exam.find("registered.comma-absent", entry.file, entry.line, first_name=first, joined=entry.value)


def _is_joined(exam: Examination, file: Path, line: int) -> bool:
    source = exam.view.project.parse(file)
    if source is None or source.tree is None or source.source is None:
        return False
    for node in ast.walk(source.tree):
        if isinstance(node, ast.Constant) and node.lineno == line and isinstance(node.value, str):
            segment = ast.get_source_segment(source.source.text, node) or ""
            if segment.count('"') + segment.count("'") > 2:
                return True
    return False


def _elsewhere(exam: Examination) -> Iterator[Finding]:
    """The module is listed by settings that the host does not run with."""
    settings = exam.view.settings
    if settings is None or settings.path is None:
        return
    for path in sorted(settings.path.parent.glob("*.py")):
        if path in settings.files:
            continue
        source = exam.view.project.parse(path)
        for node in ast.walk(source.tree) if source is not None and source.tree is not None else ():
            if isinstance(node, ast.Constant) and isinstance(node.value, str):
                if node.value == exam.module.name or node.value.startswith(f"{exam.module.name}.apps."):
                    other = exam.view.relative(path)
                    yield exam.find(
                        "registered.other-settings", path, node.lineno, other=other, settings=settings.module
                    )
                    return


def _in_some_cases(exam: Examination) -> bool:
    """True for a module whose addresses are included in some cases only."""
    view, urls = exam.view, exam.module.urls
    routes = view.addresses.including(urls, view.root_urls) if urls and view.root_urls else []
    return bool(routes) and all(route.conditional for route in routes)


def _overwritten(exam: Examination) -> Iterator[Finding]:
    """The entry stands in a list that is set anew later."""
    settings = exam.view.settings
    value = settings.get("INSTALLED_APPS") if settings else None
    for path in settings.files if settings and value else ():
        source = exam.view.project.parse(path)
        for node in source.tree.body if source is not None and source.tree is not None else ():
            if not (isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name)):
                continue
            if node.targets[0].id != "INSTALLED_APPS":
                continue
            for inner in ast.walk(node.value):
                if isinstance(inner, ast.Constant) and inner.value == exam.module.name and value is not None:
                    later = f"{exam.view.relative(value.file)}:{value.line}"
                    if (value.file, value.line) != (path, node.value.lineno):
                        yield exam.find("registered.overwritten", path, inner.lineno, later=later)
                        return


def needs(exam: Examination) -> Iterator[Finding]:
    """Modules that the brief says it needs."""
    view = exam.view
    meta = exam.module.brief.get("module", {})
    wanted = meta.get("needs") or [] if isinstance(meta, dict) else []
    for need in wanted:
        module = view.labels.get(need) or view.module(need)
        if module is not None:
            if view.entry_of(module) is None and (view.list_is_sure or exam.live is not None):
                yield exam.find("compatible.need-off", exam.module.folder / "sprout.toml", need=need)
        elif need not in view.claims.labels and not any(entry.value == need for entry in view.listed):
            match = nearest(need, [*view.labels, *view.claims.labels])
            near = said_near(match)
            yield exam.find("compatible.need-absent", exam.module.folder / "sprout.toml", need=need, nearest=near)


def host_version(exam: Examination) -> Iterator[Finding]:
    """A host version that the rules were not checked on."""
    data, version = exam.view.data, exam.view.version
    if version and not data.in_range(version):
        yield exam.find("compatible.host-version", host=data.title, version=version, range=data.facts.works)


STATIC = (registration, needs, host_version)
