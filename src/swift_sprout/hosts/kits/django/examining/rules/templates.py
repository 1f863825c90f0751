"""Served, from the files: templates that are asked for exist, and fill blocks that their layouts have."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ......core.findings import Finding
from ......core.nearest import misspelt, near_text, nearest, said_near
from ...reading.code import Said, nodes_of, template_names
from ...reading.engines import template_engines
from ...reading.templates import TemplateFile
from ..examination import Examination

if TYPE_CHECKING:
    from ...view import HostView


def folders_off(exam: Examination) -> Iterator[Finding]:
    """The host is told not to look into the modules' template folders."""
    value = exam.view.settings.get("TEMPLATES") if exam.view.settings else None
    engines = template_engines(exam.view.settings)
    if not exam.module.has("templates") or exam.view.entry_of(exam.module) is None or value is None or not engines:
        return
    first = engines[0]
    if first.backend.endswith("DjangoTemplates") and first.app_dirs is False and not first.loaders:
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
            if exam.view.templates.named(said.text):
                continue
            if wanted not in (exam.module.label, exam.module.folder.name):
                yield from _misspelt_elsewhere(exam, source.path, said)
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
            near = said_near(match)
            values = {"template": said.text, "nearest": near, "path": "its page"}
            expected = exam.view.relative(folder / said.text)
            yield exam.find("served.template-absent", source.path, said.line, expected=expected, **values)


def _misspelt_elsewhere(exam: Examination, path: Path, said: Said) -> Iterator[Finding]:
    """Yield a template that is asked for in another folder than the module's own, and that is nearly one there is."""
    templates = exam.view.templates
    near = misspelt(said.text, {one.name for one in templates.all})
    if near is not None and templates.sure and templates.layout(said.text) is None:
        values = {"template": said.text, "nearest": said_near(near), "path": "its page"}
        expected = exam.view.relative(templates.named(near).path.parent / said.text.rpartition("/")[2])  # type: ignore[union-attr]
        yield exam.find("served.template-absent", path, said.line, expected=expected, **values)


def unknown_blocks(exam: Examination) -> Iterator[Finding]:
    """Blocks that the layout does not have: what stands in them is never seen."""
    for template in exam.module.templates:
        for block, line, known in _blocks_of_nothing(exam.view, template):
            near = said_near(nearest(block, known))
            values = {"template": exam.view.relative(template.path), "block": block, "nearest": near}
            yield exam.find("served.block-unknown", template.path, line, layout=template.extends, **values)


def unknown_blocks_of_site(view: HostView) -> Iterator[Finding]:
    """The same, of the site's own folders of templates, where the layout has a block of nearly that name."""
    for template in view.templates.all:
        for block, line, known in _blocks_of_nothing(view, template) if not template.owner else ():
            near = misspelt(block, known)
            if near is not None:
                file = view.relative(template.path)
                values = {"template": file, "block": block, "nearest": said_near(near), "place": f"{file}:{line}"}
                yield view.data.rules.finding("served.block-unknown", "", file, line, layout=template.extends, **values)


def _blocks_of_nothing(view: HostView, template: TemplateFile) -> Iterator[tuple[str, int, set[str]]]:
    """Yield the outer blocks of a template that its layouts lack, each with its line and the blocks that they have."""
    known = view.templates.blocks_above(template) if template.extends is not None else None
    for block, line in _outer_blocks(template).items() if known is not None else ():
        if block not in (known or ()):
            yield block, line, known or set()


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


def asked_by_templates(exam: Examination) -> Iterator[Finding]:
    """Templates of the host's own that another one extends or includes, and that no folder of it has.

    What stands under the name of a package is left out: it may be made for hosts that have another version of it.
    """
    templates, settings = exam.view.templates, exam.view.settings
    for template in exam.module.templates:
        for tag in template.tags:
            name = tag.whole_text if tag.name in ("extends", "include") else None
            above, _, _ = (name or "").rpartition("/")
            if not name or (above and above.partition("/")[0] not in templates.own_spaces):
                continue
            if templates.layout(name) is not None or not templates.sure:
                continue
            if templates.folders_absent and settings is not None and (value := settings.get("TEMPLATES")):
                folder = exam.view.relative(templates.folders_absent[0])
                yield exam.find("served.template-folder-absent", value.file, value.line, folder=folder, template=name)
                return
            match = nearest(name, [one.name for one in templates.all])
            near = said_near(match)
            values = {"template": name, "nearest": near, "path": "its page"}
            expected = exam.view.relative(exam.module.folder / "templates" / name)
            yield exam.find("served.template-absent", template.path, tag.line, expected=expected, **values)


def for_administration(exam: Examination) -> Iterator[Finding]:
    """Templates for the administration of a record that is not there, and that nothing asks for by their name."""
    for template in exam.module.templates:
        admin, *parts = template.name.split("/")
        module = exam.view.labels.get(parts[0]) if admin == "admin" and len(parts) == 3 else None
        if module is None or exam.view.templates.asked_for(template.name):
            continue
        sources = exam.sources_of(module)
        classes = {
            node.name.lower()
            for one in sources
            for node in nodes_of(one.tree or ast.Module([], []))
            if isinstance(node, ast.ClassDef)
        }
        if parts[1] in classes or any(one.mentions(template.name) for one in exam.sources):
            continue
        near = near_text(parts[1], classes)
        values = {"record": parts[1], "other": module.name, "near": near, "template": template.name}
        yield exam.find("placed.admin-template-unused", template.path, 0, **values)


def unread(exam: Examination) -> Iterator[Finding]:
    """Templates that are not written in UTF-8."""
    for template in exam.module.templates:
        if template.unread:
            error = "it is not written in UTF-8"
            yield exam.find("served.template-broken", template.path, template.unread, error=error, path="its page")


def circles(exam: Examination) -> Iterator[Finding]:
    """Templates that extend each other in a circle; one that extends another of its own name is none."""
    templates = exam.view.templates
    for template in exam.module.templates:
        chain: list[TemplateFile] = []
        layout: TemplateFile | None = template
        while layout is not None and layout not in chain:
            chain.append(layout)
            layout = templates.named(layout.extends) if layout.extends and layout.extends != layout.name else None
        circle = chain[chain.index(layout) :] if layout is not None else []
        if template in circle and len(circle) > 1 and len({one.name for one in circle}) == len(circle):
            begin = max(circle, key=lambda one: sum(other.extends == one.name for other in templates.all))
            at = circle.index(begin)
            names = " → ".join(exam.view.relative(one.path) for one in [*circle[at:], *circle[:at], begin])
            line = next(tag.line for tag in begin.tags if tag.name == "extends")
            yield exam.find("served.template-circle", begin.path, line, templates=names, path="its page")
            return


STATIC = (folders_off, absent, unknown_blocks, asked_by_templates, for_administration, unread, circles)
