"""The site's own folders of templates, and its layout, as its settings and files show them."""

from __future__ import annotations

import re
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ..facts import django
from .engines import template_engines
from .tags import read_tags

if TYPE_CHECKING:
    from ..view import HostView

LAYOUT_NAMES = ("base.html", "layout.html", "site_base.html")
BLOCK_NAMES = ("content", "main", "body")


def template_folders(view: HostView) -> list[Path]:
    """Return the folders that the settings name for templates, as far as they can be told."""
    named = (view.root / folder for engine in template_engines(view.settings) for folder in engine.folders)
    return [folder for folder in named if folder.is_dir()]


class SiteLayout(NamedTuple):
    """The layout of a site's pages.

    template, block -- its name, and its block for content; empty when the site has none that can be told
    title           -- its block for the title of a page; empty where it has none, or shows the page's own title already
    title_stays     -- True where what stands in that block goes behind the page's title, such as the site's name
    head, scripts   -- its blocks for style sheets, and for scripts; empty where it has none
    """

    template: str = ""
    block: str = ""
    title: str = ""
    title_stays: bool = False
    head: str = ""
    scripts: str = ""


def site_layout(view: HostView) -> SiteLayout:
    """Return the site's own layout.

    Hosts that bring a layout for all modules have it in their kit, under ``[layout]``.
    """
    known = django(view.data).layout
    if known is not None:
        return SiteLayout(known.template, known.block)
    for folder in template_folders(view):
        for name in LAYOUT_NAMES:
            blocks = {tag.rest.split()[0] for tag in read_tags(folder / name) if tag.name == "block" and tag.rest}
            for block in BLOCK_NAMES:
                if block in blocks:
                    return _further_blocks(SiteLayout(name, block), (folder / name).read_text("utf-8", "replace"))
    return SiteLayout()


_BLOCK = re.compile(r"\{%\s*block\s+(\w+)\s*%\}(.*?)\{%\s*endblock[^%]*%\}", re.DOTALL)
_STYLES = re.compile(r"css|style|head|extra", re.IGNORECASE)
_SCRIPTS = re.compile(r"js|script", re.IGNORECASE)


def _further_blocks(layout: SiteLayout, text: str) -> SiteLayout:
    """Return a layout with its blocks for titles, style sheets and scripts, as its text shows them."""
    head, _, rest = text.partition("</head>")
    before, opening, after = head.partition("<title>")
    title, _, behind = after.partition("</title>") if opening else ("", "", "")
    titled = _BLOCK.search(title)
    if titled is not None and "{{" not in titled.group(2):
        layout = layout._replace(title=titled.group(1), title_stays=bool(titled.group(2).strip()))
    styles = [name for name, _ in _BLOCK.findall(before + behind) if _STYLES.search(name) and not _SCRIPTS.search(name)]
    scripts = [name for name, _ in _BLOCK.findall(rest) if _SCRIPTS.search(name) and name != layout.block]
    return layout._replace(head=styles[-1] if styles else "", scripts=scripts[-1] if scripts else "")
