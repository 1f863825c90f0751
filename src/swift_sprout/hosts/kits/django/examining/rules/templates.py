"""Served, from the files: templates that are asked for exist, and fill blocks that their layouts have."""

from __future__ import annotations

from collections.abc import Iterator

from ......core.findings import Finding
from ......core.nearest import nearest
from ...reading.code import template_names
from ...reading.templates import TemplateFile
from ..examination import Examination


def folders_off(exam: Examination) -> Iterator[Finding]:
    """The host is told not to look into the modules' template folders."""
    value = exam.view.settings.get("TEMPLATES") if exam.view.settings else None
    engines = value.plain if value is not None and isinstance(value.plain, list) else []
    if not exam.module.has("templates") or exam.view.entry_of(exam.module) is None or value is None or not engines:
        return
    first = engines[0] if isinstance(engines[0], dict) else {}
    options = first.get("OPTIONS")
    loaders = isinstance(options, dict) and "loaders" in options
    if str(first.get("BACKEND", "")).endswith("DjangoTemplates") and not first.get("APP_DIRS") and not loaders:
        yield exam.find("served.template-folders-off", value.file, value.line)


def absent(exam: Examination) -> Iterator[Finding]:
    """Templates that controllers of the module ask for under the module's own name, and that are not there."""
    own: set[str] | None = None
    wrong_folders: set[str] = set()
    for source in exam.sources:
        for said in (
            template_names(source.tree) if source.tree is not None and source.mentions("template", "render") else ()
        ):
            wanted = said.text.partition("/")[0]
            if wanted not in (exam.module.label, exam.module.folder.name) or exam.view.templates.named(said.text):
                continue
            folder = exam.module.folder / "templates"
            if own is None:
                own = {path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file()}
            there = {name.partition("/")[0] for name in own if name.partition("/")[2] == said.text.partition("/")[2]}
            if there and wanted not in {name.partition("/")[0] for name in own}:
                near = there.pop()
                if near not in wrong_folders:
                    wrong_folders.add(near)
                    yield exam.find("served.template-folder", folder / near, 0, folder=near, wanted=wanted)
                continue
            match = nearest(said.text, own)
            near = f" (nearest there: {match})" if match else ""
            values = {"template": said.text, "nearest": near, "path": "its page"}
            expected = exam.view.relative(folder / said.text)
            yield exam.find("served.template-absent", source.path, said.line, expected=expected, **values)


def unknown_blocks(exam: Examination) -> Iterator[Finding]:
    """Blocks that the layout does not have: what stands in them is never seen."""
    for template in exam.module.templates:
        if template.extends is None:
            continue
        known = _blocks_of_layouts(exam, template)
        if known is None:
            continue
        outer = _outer_blocks(template)
        for block, line in outer.items():
            if block not in known:
                match = nearest(block, known)
                near = f" (nearest: {match})" if match else ""
                values = {"template": exam.view.relative(template.path), "block": block, "nearest": near}
                yield exam.find("served.block-unknown", template.path, line, layout=template.extends, **values)


def _outer_blocks(template: TemplateFile) -> dict[str, int]:
    """Return the blocks of a template that stand in no other block of it."""
    found: dict[str, int] = {}
    depth = 0
    for tag in template.tags:
        if tag.name == "block" and tag.rest:
            if depth == 0:
                found[tag.rest.split()[0]] = tag.line
            depth += 1
        elif tag.name == "endblock":
            depth -= 1
    return found


def _blocks_of_layouts(exam: Examination, template: TemplateFile) -> set[str] | None:
    """Return all blocks that the chain of layouts has; None when the chain leaves the host's own templates."""
    known: set[str] = set()
    name, seen = template.extends, {template.place}
    while name is not None:
        layout = exam.view.templates.named(name)
        if layout is None or layout.place in seen:
            return None
        seen.add(layout.place)
        known |= set(layout.blocks)
        name = layout.extends
        if name is None and any(tag.name == "extends" for tag in layout.tags):
            return None
    return known


STATIC = (folders_off, absent, unknown_blocks)
