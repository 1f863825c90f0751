"""The site's own folders of templates, and its layout, as its settings and files show them."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ..facts import django
from .tags import read_tags

if TYPE_CHECKING:
    from ..view import HostView

LAYOUT_NAMES = ("base.html", "layout.html", "site_base.html")
BLOCK_NAMES = ("content", "main", "body")


def template_folders(view: HostView) -> list[Path]:
    """Return the folders that the settings name for templates, as far as they can be told."""
    engines = view.settings.plain("TEMPLATES", []) if view.settings else []
    folders: list[Path] = []
    for engine in engines if isinstance(engines, list) else []:
        listed = engine.get("DIRS", []) if isinstance(engine, dict) else []
        folders += [view.root / entry for entry in listed if isinstance(entry, str | Path)]
    return [folder for folder in folders if folder.is_dir()]


def site_layout(view: HostView) -> tuple[str, str]:
    """Return the name of the site's own layout and of its block for content; empty when it has none we can tell.

    Hosts that bring a layout for all modules have it in their kit, under ``[layout]``.
    """
    known = django(view.data).layout
    if known is not None:
        return known.template, known.block
    for folder in template_folders(view):
        for name in LAYOUT_NAMES:
            blocks = {tag.rest.split()[0] for tag in read_tags(folder / name) if tag.name == "block" and tag.rest}
            for block in BLOCK_NAMES:
                if block in blocks:
                    return name, block
    return "", ""
