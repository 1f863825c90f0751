"""Whether any page can draw what stands at a place of a template, as all templates of the host show it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cached_property
from typing import NamedTuple

from .....disk.guard import read_content
from ....python.sources import python_texts
from .templates import TEMPLATE_ENDINGS, TemplateFile, Templates, files_below

_BLOCKS = re.compile(r"\{%-?\s*block\s+(\w+)|\{%-?\s*endblock|block\.super")

#  templates that the host's own views look for by name (Django 5.2: generic views, sign-in, administration, errors)
_BY_CUSTOM = re.compile(r"_(list|detail|form|confirm_delete|archive\w*)\.html$|^(registration|admin)/|^\d{3}\.html$")


class KeptOut(NamedTuple):
    """Why no page draws what stands at a place: ``reason`` as half a sentence, and the templates that see to it."""

    reason: str
    by: tuple[TemplateFile, ...]


class Drawing:
    """The templates of a host by what they extend, and what they put into the blocks of that."""

    def __init__(self, templates: Templates) -> None:
        self.templates = templates

    def kept_out(self, template: TemplateFile, index: int) -> KeptOut | None:
        """Return why no page draws what a tag of a template does; None where one may, or that is not sure.

        A template draws its own blocks where it is used by itself, and those of what it extends where it does not put
        something else there.
        """
        blocks = blocks_around(template, index)
        if template.extends is not None and not blocks:
            layout = self.templates.above(template)
            if layout is None:
                return None
            return KeptOut(f"outside every block, and {template.name} extends {layout.name}", (template,))
        above = self.templates.blocks_above(template) if template.extends is not None else None
        if above is not None and blocks[0] not in above:
            return KeptOut(f"in the block {blocks[0]}, which nothing that {template.name} extends has", (template,))
        if not blocks or self.is_used_by_itself(template) or not self._all_extends_told:
            return None
        by: list[TemplateFile] = []
        if not self._all_replace(template, blocks, by, frozenset()) or not by:
            return None
        return KeptOut(f"in the block {blocks[-1]}, which every template that extends {template.name} replaces", (*by,))

    def _all_replace(
        self, template: TemplateFile, blocks: list[str], by: list[TemplateFile], above: frozenset[str]
    ) -> bool:
        for one in self._extended_by.get(template.place, ()):
            if one.place in above:  # a circle of templates is told by a rule of its own
                return False
            if set(blocks) & set(one.blocks) - blocks_added_to(one):
                by.append(one)
            elif (
                self.is_used_by_itself(one)
                or not self._extended_by.get(one.place)
                or not self._all_replace(one, blocks, by, above | {one.place})
            ):
                return False
        return True

    def is_used_by_itself(self, template: TemplateFile) -> bool:
        """True where code names a template, or another one includes it: then it is drawn as it stands."""
        included = (tag.first_text for one in self.templates.using("include") for tag in one.tags)
        spelled = (f'"{template.name}"', f"'{template.name}'")
        return any(one in text for text in self.texts for one in spelled) or template.name in included

    def is_named(self, name: str) -> bool:
        """True where code or a template names a template, or the host takes it by a name that is custom.

        What is only included where a condition holds is left out: that may be for another host or version.
        """
        said = (f'"{name}"', f"'{name}'")
        if any(one in text for text in self.texts for one in said) or _BY_CUSTOM.search(name) is not None:
            return True
        return any(_asks_always(one, name) for one in self.templates.all)

    @cached_property
    def texts(self) -> list[str]:
        """The Python of the host, each file's text."""
        return list(python_texts(self.templates.view.root))

    @cached_property
    def _all_extends_told(self) -> bool:
        """False where a template extends what only the running host knows: it may be any."""
        users = self.templates.using("extends")
        told = all(tag.whole_text is not None for one in users for tag in one.tags if tag.name == "extends")
        return told and self.templates.sure

    @cached_property
    def _extended_by(self) -> dict[str, list[TemplateFile]]:
        """The templates that extend each, by its place; those of packages are among them."""
        found: dict[str, list[TemplateFile]] = {}
        for one in (*self.templates.using("extends"), *self._of_packages()):
            above = self.templates.above(one)
            if above is not None:
                found.setdefault(above.place, []).append(one)
        return found

    def _of_packages(self) -> Iterator[TemplateFile]:
        known = {one.name for one in self.templates.all}
        for folder in self.templates.package_folders:
            for place in files_below(folder):
                name = place[len(folder) + 1 :]
                if place.endswith(TEMPLATE_ENDINGS) and name not in known:
                    found = self.templates.layout(name)
                    if found is not None and found.extends in known:
                        yield found


def _asks_always(template: TemplateFile, name: str) -> bool:
    """True where a template extends or includes another one under no condition."""
    depth = 0
    for tag in template.tags:
        if tag.name == "if":
            depth += 1
        elif tag.name == "endif":
            depth -= 1
        elif tag.whole_text == name and (tag.name == "extends" or (tag.name == "include" and depth == 0)):
            return True
    return False


def blocks_added_to(template: TemplateFile) -> set[str]:
    """Return the blocks in which a template draws what stands in them above it, too."""
    found: set[str] = set()
    around: list[str] = []
    for word in _BLOCKS.finditer(read_content(template.place).decode("utf-8", "replace")):
        if word.group(1):
            around.append(word.group(1))
        elif word.group().startswith("{%"):
            del around[-1:]
        else:
            found |= set(around)
    return found


def blocks_around(template: TemplateFile, index: int) -> list[str]:
    """Return the names of the blocks that a tag of a template stands in, the outermost first."""
    around: list[str] = []
    for tag in template.tags[:index]:
        if tag.name == "block" and tag.rest:
            around.append(tag.rest.split()[0])
        elif tag.name == "endblock" and around:
            around.pop()
    return around
