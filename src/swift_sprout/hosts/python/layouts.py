"""The layout of a site's pages, where templates fill the blocks of others (Django's own language, Jinja)."""

from __future__ import annotations

import re
from typing import NamedTuple

LAYOUT_NAMES = ("base.html", "layout.html", "site_base.html", "_base.html", "_layout.html")
BLOCK_NAMES = ("content", "main", "body")
_OPENS = re.compile(r"\{%-?\s*block\s+(\w+)[^%]*%\}")
_BLOCK = re.compile(r"\{%-?\s*block\s+(\w+)[^%]*%\}(.*?)\{%-?\s*endblock[^%]*%\}", re.DOTALL)
_COMMENT = re.compile(r"\{#.*?#\}|\{%-?\s*comment\b.*?\bendcomment\s*-?%\}", re.DOTALL)
_STYLES = re.compile(r"css|style|head|extra", re.IGNORECASE)
_SCRIPTS = re.compile(r"js|script", re.IGNORECASE)


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


def layout_in(name: str, text: str) -> SiteLayout | None:
    """Return the layout that a template is, with its blocks; None where it has no block for content."""
    text = _COMMENT.sub("", text)
    opened = set(_OPENS.findall(text))
    block = next((one for one in BLOCK_NAMES if one in opened), None)
    if block is None:
        return None
    head, _, rest = text.partition("</head>")
    before, opening, after = head.partition("<title>")
    title, _, behind = after.partition("</title>") if opening else ("", "", "")
    titled = _BLOCK.search(title)
    shows_own = titled is not None and "{{" in titled.group(2)
    styles = [one for one, _ in _BLOCK.findall(before + behind) if _STYLES.search(one) and not _SCRIPTS.search(one)]
    scripts = [one for one, _ in _BLOCK.findall(rest) if _SCRIPTS.search(one) and one != block]
    return SiteLayout(
        name,
        block,
        titled.group(1) if titled is not None and not shows_own else "",
        titled is not None and not shows_own and bool(titled.group(2).strip()),
        styles[-1] if styles else "",
        scripts[-1] if scripts else "",
    )
