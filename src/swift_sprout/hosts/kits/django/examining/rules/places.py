"""Placed: blocks, tag libraries, assets and administration screens stand where they are seen."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ......core.findings import Finding
from ......core.nearest import nearest, said_near
from ...reading.drawing import KeptOut
from ...reading.engines import template_engines
from ...reading.templates import TemplateFile
from ..examination import Examination

HOST_LIBRARIES = frozenset({"cache", "i18n", "l10n", "log", "static", "tz", "admin_list", "admin_modify", "admin_urls"})


def blocks(exam: Examination) -> Iterator[Finding]:
    """Blocks of the module that stand in no template."""
    if exam.view.entry_of(exam.module) is None:
        return
    used = exam.view.templates.used_tags
    for library in exam.module.libraries:
        for block, line in library.blocks.items():
            if block not in used:
                yield exam.find("placed.block-nowhere", library.path, line, block=block, library=library.name)


def kept_out(exam: Examination) -> Iterator[Finding]:
    """Tags of the module that stand only where no page draws them."""
    if exam.view.entry_of(exam.module) is None:
        return
    for library in exam.module.libraries:
        for block in library.tags:
            uses = [
                (template, index)
                for template in dict.fromkeys(exam.view.templates.using(block))
                for index, tag in enumerate(template.tags)
                if tag.name == block
            ]
            found = [exam.view.drawing.kept_out(template, index) for template, index in uses]
            if not uses or None in found:
                continue
            (template, index), why = uses[0], found[0]
            if why is not None and not _is_drawn(exam, template, why):
                values = {"block": block, "template": template.name, "where": why.reason}
                yield exam.find("placed.block-kept-out", template.path, template.tags[index].line, **values)


def _is_drawn(exam: Examination, template: TemplateFile, why: KeptOut) -> bool:
    """True where a page that was asked for drew a template, and nothing in the place of its blocks."""
    replacing = {one.place for one in why.by}
    for requests in exam.live.asked.values() if exam.live is not None else ():
        for request in requests:
            drawn = {str(entry["file"]) for entry in request.log.get("templates", [])}
            if template.place in drawn and not drawn & replacing:
                return True
    return False


def libraries(exam: Examination) -> Iterator[Finding]:
    """Templates of the module that use tags without loading them, or load what is not there."""
    known, tags = exam.view.templates.library_names, exam.view.templates.library_of_tag
    foreign = exam.view.has_foreign_modules
    named = _named_by_settings(exam)
    misnamed: set[str] = set()
    for template in exam.module.templates:
        loaded: set[str] = set()
        for tag in template.tags:
            if tag.name == "load":
                words = tag.rest.split()
                loads = words[words.index("from") + 1 :] if "from" in words else words
                loaded |= set(loads)
                for library in loads:
                    if library in known or library in HOST_LIBRARIES or library in named or foreign:
                        continue
                    owner = exam.view.templates.installed_libraries.get(library)
                    if owner is not None and not exam.view.list_is_sure and not exam.host_answers:
                        continue  # it may be on a part of the list that cannot be told
                    if owner is not None:
                        values = {"template": exam.view.relative(template.place), "library": library, "other": owner}
                        yield exam.find("placed.library-off", template.path, tag.line, **values)
                    else:
                        match = nearest(library, [*known, *HOST_LIBRARIES])
                        if match in known and known[match].owner == exam.module.name and not _is_loaded(exam, match):
                            if library not in misnamed:
                                misnamed.add(library)
                                yield exam.find("placed.library-misnamed", known[match].path, 0, library=library)
                            continue
                        near = said_near(match)
                        values = {"template": exam.view.relative(template.place), "library": library, "nearest": near}
                        yield exam.find("placed.library-unknown", template.path, tag.line, **values)
            elif tag.name not in tags or any(known[name].tags.get(tag.name) for name in loaded if name in known):
                continue  # several libraries may bring a tag of one name
            elif tags[tag.name].name not in loaded and not _built_in(exam, tags[tag.name].name):
                if tag.name not in ("block", "url", "load", "if", "for", "include", "extends") and not (
                    loaded - set(known) - HOST_LIBRARIES
                ):
                    name = exam.view.relative(template.place)
                    values = {"template": name, "block": tag.name, "library": tags[tag.name].name}
                    yield exam.find("placed.library-unloaded", template.path, tag.line, **values)


def _named_by_settings(exam: Examination) -> set[str]:
    """Return the names that the settings themselves give to libraries."""
    return {name for engine in template_engines(exam.view.settings) for name in engine.libraries}


def _is_loaded(exam: Examination, library: str) -> bool:
    """True when a template of the host loads a library."""
    return any(
        library in tag.rest.split()
        for template in exam.view.templates.using("load")
        for tag in template.tags
        if tag.name == "load"
    )


def _built_in(exam: Examination, library: str) -> bool:
    """True when the settings load a library into every template."""
    return any(
        library in named
        for engine in template_engines(exam.view.settings)
        for named in (*engine.libraries, *engine.builtins)
    )


def assets(exam: Examination) -> Iterator[Finding]:
    """Static files that templates of the module ask for and that are in none of the host's own folders."""
    view = exam.view
    for template in exam.module.templates if view.static_folders_told else ():
        for tag in template.tags:
            asset = tag.first_text if tag.name == "static" else None
            if not asset or asset.partition("/")[0] != exam.module.label:
                continue  # assets of packages are theirs to bring
            if not any((folder / asset).exists() for folder in view.static_folders):
                own = exam.module.folder / "static"
                known = [path.relative_to(own).as_posix() for path in own.rglob("*") if path.is_file()]
                match = nearest(asset, known)
                near = said_near(match)
                values = {"template": view.relative(template.path), "asset": asset, "nearest": near}
                expected = view.relative(own / asset)
                yield exam.find("placed.asset-absent", template.path, tag.line, expected=expected, **values)


def screens(exam: Examination) -> Iterator[Finding]:
    """Administration screens that no address leads to."""
    view = exam.view
    source = view.project.parse(f"{exam.module.place}/admin.py") if exam.module.has("admin.py") else None
    if source is None or source.source is None or view.entry_of(exam.module) is None or not view.root_urls:
        return
    if "django.contrib.admin" not in view.claims.packages:
        return  # without the administration nothing loads the file
    if not re.search(r"\.register\b|@admin\.register|@register", source.source.text):
        return
    conf = view.addresses.file(view.root_urls)
    if conf is None or not conf.sure or not conf.routes:
        return
    if view.includes_screens:
        return
    yield exam.find("placed.screens-not-included", source.path, 1)


def libraries_off(exam: Examination) -> Iterator[Finding]:
    """Templates that load a tag library of a module that is off, or that stops the host."""
    known, off = exam.view.templates.library_names, exam.view.templates.libraries_off
    if exam.live is not None:
        off = frozenset(name for name in off if known[name].owner not in exam.live.registry_by_name)
    elif not exam.view.list_is_sure:
        return
    if exam.live is not None and exam.live.stopped:
        off = off | {name for name, library in known.items() if library.owner in exam.live.stopped}
    for template in exam.module.templates if off else ():
        for tag in template.tags:
            for word in tag.rest.split() if tag.name == "load" else ():
                owner = known[word].owner if word in off else exam.module.name
                if owner != exam.module.name:
                    values = {"template": exam.view.relative(template.path), "library": word, "other": owner}
                    yield exam.find("placed.library-off", template.path, tag.line, **values)


STATIC = (blocks, kept_out, libraries, assets, screens, libraries_off)
