"""What the modules of a host need of each other: as their briefs say it, and as their code shows it."""

from __future__ import annotations

import ast
import os
from collections.abc import Iterable
from pathlib import Path

from .reading.code import imports_of, relative_to, spelled
from .reading.modules import ModuleFiles
from .reading.project import Source
from .view import HostView

_RELATIONS = ("ForeignKey", "OneToOneField", "ManyToManyField")


def said_needs(view: HostView, module: ModuleFiles) -> list[str]:
    """Return the labels of the modules that a brief says a module needs."""
    meta = module.brief.get("module", {})
    wanted = meta.get("needs") or [] if isinstance(meta, dict) else []
    return [_label(view, need) for need in wanted if isinstance(need, str)]


def _label(view: HostView, name: str) -> str:
    module = view.module(name)
    return module.label if module is not None else name


def needed_by_code(
    view: HostView, module: ModuleFiles, sources: Iterable[Source] | None = None
) -> dict[str, tuple[Path, int]]:
    """Return the labels of the host's own modules that a module's code rests on, each with the first place.

    sources -- its Python files, where they are read already

    What counts: imports at the top of files, relations to records, migrations that follow theirs, templates extended.
    """
    found: dict[str, tuple[Path, int]] = {}
    below = len(module.place) + 1
    if sources is None:
        paths = sorted(module.folder.rglob("*.py"))
        sources = [source for path in paths if (source := view.project.parse(path)) is not None]
    for source in sources:
        parts = source.place[below:].split(os.sep)
        if "tests" in parts or parts[-1].startswith("test") or source.tree is None:
            continue
        package = ".".join([module.name, *parts[:-1]])
        for one in imports_of(source.tree):
            if not one.soft and (one.module[:1] == "." or one.module.partition(".")[0] in view.top_packages):
                _note(view, module, found, relative_to(one.module, package), source, one.line)
        if "models" in parts[-1] or "models" in parts[:-1]:
            for node in source.tree.body:
                for line in node.body if isinstance(node, ast.ClassDef) else ():
                    label = _related(line)
                    if label in view.labels and label != module.label:
                        found.setdefault(label, (source.path, line.lineno))
    for template in module.templates:
        for tag in template.tags:
            name = tag.first_text if tag.name in ("extends", "include") else None
            other = view.templates.named(name) if name else None
            owner = view.module(other.owner) if other is not None and other.owner else None
            if owner is not None and owner.name != module.name:
                found.setdefault(owner.label, (template.path, tag.line))
    return found


def _related(line: ast.stmt) -> str:
    """Return the label of the module whose record a line of a model points at by name; empty for none."""
    call = line.value if isinstance(line, ast.Assign) else None
    if not (isinstance(call, ast.Call) and call.args and spelled(call.func).endswith(_RELATIONS)):
        return ""
    target = call.args[0]
    if isinstance(target, ast.Constant) and isinstance(target.value, str) and "." in target.value:
        return target.value.partition(".")[0]
    return ""


def _note(
    view: HostView, module: ModuleFiles, found: dict[str, tuple[Path, int]], dotted: str, source: Source, line: int
) -> None:
    name = dotted
    while name:
        other = view.module(name)
        if other is not None:
            if other.name != module.name:
                found.setdefault(other.label, (source.path, line))
            return
        name = name.rpartition(".")[0]
