"""Putting a module's blocks into the site's templates, and taking them out again."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from ....core.brief import Brief
from ....core.changes import ChangeSet
from ....core.errors import Refused, WrongUse
from ....core.nearest import did_you_mean
from ....core.parts.placing import Placement, block_of
from ....edits.source import SourceText
from ...python.layouts import BLOCK_NAMES
from .facts import django
from .reading.code import class_named, function_named, template_names
from .reading.layouts import site_layout, template_folders
from .reading.modules import ModuleFiles
from .reading.tags import tags_in
from .view import HostView

FRONT_PAGE = "front page"
SITE = "site"  # the side of a placement that visitors see, not that of the administration
_END = re.compile(r"\{%-?\s*(block|endblock)\b\s*(\w*)[^%]*%\}")


class Wanted(NamedTuple):
    """A block that shall stand in a template: the tag library, the tag's name, and the paths on which it is seen."""

    library: str
    tag: str
    pages: tuple[str, ...]

    @property
    def line(self) -> str:
        """What stands in the template."""
        on = " ".join(f"/{path.strip('/')}/" if path != "/" else "/" for path in self.pages)
        return f"{{% load {self.library} %}}{{% {self.tag}{f' on={chr(34)}{on}{chr(34)}' if on else ''} %}}"


def replace(view: HostView, module: ModuleFiles, before: Brief | None, after: Brief | None) -> ChangeSet:
    """Return the edits of templates that lead from one brief's placements to another's; None stands for none.

    Nothing is put in while the module is off. Raises WrongUse when a place is not there.
    """
    changes = ChangeSet(f"place {module.name}")
    old = list(_on_site(before)) if before is not None else []
    new = list(_on_site(after)) if after is not None and (before is None or view.entry_of(module) is not None) else []
    texts: dict[Path, str] = {}
    sources: dict[Path, SourceText] = {}
    fresh: set[Path] = set()

    def text_of(path: Path) -> str:
        if path not in texts:
            sources[path] = SourceText.plain(path.read_bytes())
            texts[path] = sources[path].text
        return texts[path]

    for placement in old:
        if placement not in new and before is not None:
            path = template_of(view, placement.place)
            wanted = _wanted(view, module, before, placement)
            if path is not None:
                texts[path] = take_out(text_of(path), wanted)
    for placement in new:
        if placement in old or after is None:
            continue
        path = template_of(view, placement.place)
        if path is None and (laid := _laid_over(view, placement.place)) is not None:
            path, text = laid
            if path not in texts:
                texts[path], sources[path] = text, SourceText.plain(text.encode("utf-8"))
                fresh.add(path)
        if path is None:
            raise _no_place(view, placement)
        wanted = _wanted(view, module, after, placement)
        texts[path] = _drawn_with(view, path, text_of(path), wanted, sources[path], placement.block)
    for path, text in texts.items():
        before_it = None if path in fresh else sources[path].content()
        changes.add(view.relative(path), before_it, sources[path].with_text(text).content())
    return changes


def refuse_unseen(view: HostView, placements: Sequence[Placement]) -> None:
    """Raise WrongUse for a placement where no template is, Refused where no page draws that part of it."""
    for placement in placements:
        if placement.side != SITE:
            continue
        path = template_of(view, placement.place)
        if path is not None:
            source = SourceText.plain(path.read_bytes())
            _drawn_with(view, path, source.text, Wanted("blocks", "placed_block", ()), source, placement.block)
        elif _laid_over(view, placement.place) is None:
            raise _no_place(view, placement)


def _laid_over(view: HostView, place: str) -> tuple[Path, str] | None:
    """Return, for a place that only the host's own templates have, the template to lay over it, and its text.

    Extending its own name, it takes the host's (Django 5.2, template inheritance), and adds to one of its blocks.
    """
    known = django(view.data).places.get(place)
    folders = template_folders(view)
    if known is None or not folders:
        return None
    lines = (f'{{% extends "{known.template}" %}}', f"{{% block {known.block} %}}", "{{ block.super }}")
    text = "\n".join([*lines, "{% endblock %}"]) + "\n"
    return folders[0] / known.template, text


def cleared(view: HostView, module: ModuleFiles) -> ChangeSet:
    """Return the edits that take all blocks of a module out of the templates of others, where they stand as put in."""
    changes = ChangeSet(f"clear {module.name}")
    for template in view.templates.all:
        libraries = [library for library in module.libraries if library.blocks]
        loaded = {word for tag in template.tags if tag.name == "load" for word in tag.rest.split()}
        if template.owner == module.name or not any(library.name in loaded for library in libraries):
            continue
        content = template.path.read_bytes()
        source = SourceText.plain(content)
        text = source.text
        for library in libraries:
            for tag in library.blocks:
                text = take_out(text, Wanted(library.name, tag, ()), with_load=True)
        changes.add(view.relative(template.path), content, source.with_text(text).content())
    return changes


def _no_place(view: HostView, placement: Placement) -> WrongUse:
    names = [FRONT_PAGE, *django(view.data).places, *(template.name for template in view.templates.all)]
    return WrongUse(
        "place-unknown",
        f"The block {placement.block!r} cannot be placed: this host has no place {placement.place!r}.",
        did_you_mean(placement.place, names) + " A place is the front page, or the name of a template.",
    )


def _on_site(brief: Brief) -> list[Placement]:
    return [one for one in brief.placements if one.published and one.side == SITE and block_of(brief, one)]


def _wanted(view: HostView, module: ModuleFiles, brief: Brief, placement: Placement) -> Wanted:
    """Return what a placement wants; a page that sends on to another is seen there."""
    block = block_of(brief, placement)
    assert block is not None
    homes = django(view.data).homes
    pages = [one for page in placement.pages for one in (page, homes.get(page, "")) if one]
    return Wanted(f"{module.label}_blocks", block.name.snake, tuple(pages))


def is_placed(view: HostView, module: ModuleFiles, brief: Brief, placement: Placement) -> bool:
    """True when the block of a placement stands in the template of its place."""
    path = template_of(view, placement.place)
    if path is None:
        return False
    wanted = _wanted(view, module, brief, placement)
    return _tag_of(wanted).search(SourceText.plain(path.read_bytes()).text) is not None


def template_of(view: HostView, place: str) -> Path | None:
    """Return the template that a place stands for, or None; raises Refused for one outside of the host."""
    known = django(view.data).places.get(place)
    name = known.template if known else _front_page(view) if place == FRONT_PAGE else place
    found = view.templates.named(name) if name else None
    if found is None:
        return None
    if not found.path.resolve().is_relative_to(view.root.resolve()):
        raise Refused("outside", f"{found.path} lies outside of the host; nothing was changed.", "Place it by hand.")
    return found.path


def _front_page(view: HostView) -> str:
    """Return the template of the page at the root address; the site's layout where that cannot be told.

    Where pages stand in a tree, it is the one that has a name that kits know front pages by.
    """
    for known in django(view.data).front_templates:
        for template in view.templates.all:
            if template.name.rpartition("/")[2] == known:
                return template.name
    return front_template(view) or site_layout(view).template


def front_template(view: HostView) -> str:
    """Return the template of the page at the root address, as its controller names it; empty where it does not."""
    for address in view.addresses.walk(view.root_urls) if view.root_urls else ():
        if address.path != "/" or not address.view:
            continue
        module, _, name = address.view.rpartition(".")
        path = view.project.file_of(module)
        source = view.project.parse(path) if path is not None else None
        if source is not None and source.tree is not None:
            node = class_named(source.tree, name) or function_named(source.tree, name)
            said = next(iter(template_names(node)), None) if node is not None else None  # type: ignore[arg-type]
            if said is not None:
                return said.text
        break
    return ""


def _drawn_with(view: HostView, path: Path, text: str, wanted: Wanted, source: SourceText, block: str) -> str:
    """Return a template with a block's tag where pages draw it; raises Refused where there is no such place in it."""
    if _tag_of(wanted).search(text):
        return text
    there = next((one for one in view.templates.all if one.path == path), None)
    for at in places_in(text):
        placed = put_in(text, at, wanted, source.newline)
        template = there._replace(tags=tags_in(placed)) if there is not None else None
        indexes = [at for at, tag in enumerate(template.tags) if tag.name == wanted.tag] if template is not None else []
        if template is None or any(view.drawing.kept_out(template, index) is None for index in indexes):
            return placed
    drawn = [one.name for one in view.templates.all if view.drawing.is_used_by_itself(one)]
    raise Refused(
        "place-not-drawn",
        f"The block {block!r} would be seen nowhere in {view.relative(path)}: every page puts something else there.",
        f"Places that pages draw: {', '.join([FRONT_PAGE, *sorted(drawn)][:12])}.",
    )


def put_in(text: str, at: int, wanted: Wanted, newline: str) -> str:
    """Put a block's tag into a template at a place, on a line of its own where one begins there."""
    start = text.rfind("\n", 0, at) + 1
    own_line = not text[start:at].strip()
    if own_line:
        return text[:start] + wanted.line + newline + text[start:]
    return text[:at] + wanted.line + text[at:]


def take_out(text: str, wanted: Wanted, with_load: bool = False) -> str:
    """Take a block's tag out of a template, with its line where it stands alone.

    with_load -- only where the tag stands behind the one that loads its library, as it is put in
    """
    found = _tag_of(wanted).search(text)
    if found is not None and with_load and "load" not in found.group():
        return text
    if found is None:
        return text
    start, end = found.span()
    line_start = text.rfind("\n", 0, start) + 1
    line_end = text.find("\n", end)
    line_end = len(text) if line_end < 0 else line_end + 1
    if not text[line_start:start].strip() and not text[end:line_end].strip():
        return text[:line_start] + text[line_end:]
    return text[:start] + text[end:]


def _tag_of(wanted: Wanted) -> re.Pattern[str]:
    load = rf"(?:\{{%-?\s*load\s+{re.escape(wanted.library)}\s*-?%\}}\s*)?"
    return re.compile(rf"{load}\{{%-?\s*{re.escape(wanted.tag)}\b[^%]*%\}}")


def places_in(text: str) -> Iterator[int]:
    """Yield where a block may stand, best first: last in the block for content, in another one, at the body's end."""
    open_blocks: list[str] = []
    ends: dict[str, int] = {}
    for found in _END.finditer(text):
        if found.group(1) == "block":
            open_blocks.append(found.group(2))
        elif open_blocks:
            ends[open_blocks.pop()] = found.start()
    for name in BLOCK_NAMES:
        if name in ends:
            yield ends[name]
    if ends:
        yield max(ends.values())
    for mark in ("</main>", "</body>"):
        if mark in text:
            yield text.rindex(mark)
    yield len(text)
