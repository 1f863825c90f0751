"""The site's own folders of templates, and its layout, as its settings and files show them."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ....python.layouts import LAYOUT_NAMES, SiteLayout, layout_in
from ..facts import django
from .engines import template_engines

if TYPE_CHECKING:
    from ..view import HostView


def template_folders(view: HostView) -> list[Path]:
    """Return the folders that the settings name for templates, as far as they can be told."""
    named = (view.root / folder for engine in template_engines(view.settings) for folder in engine.folders)
    return [folder for folder in named if folder.is_dir()]


def site_layout(view: HostView) -> SiteLayout:
    """Return the site's own layout.

    Hosts that bring a layout for all modules have it in their kit, under ``[layout]``.
    """
    known = django(view.data).layout
    if known is not None:
        return SiteLayout(known.template, known.block)
    for folder in template_folders(view):
        for name in LAYOUT_NAMES:
            file = folder / name
            layout = layout_in(name, file.read_text("utf-8", "replace")) if file.is_file() else None
            if layout is not None:
                return layout
    return SiteLayout()
