"""Filling a kit's templates. Values enter a template only through the escaping of the syntax that it makes.

Templates mark values with « and » and lines of control with «% and %», so that they read like the file they make and
meet neither the braces of a host's own templates nor those of its language.
"""

from __future__ import annotations

import html
import re
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

Filters = Mapping[str, Callable[..., str]]


class Templates:
    """The templates of one folder; ``filters`` are the escapings that its templates use."""

    def __init__(self, folder: Path, filters: Filters) -> None:
        from jinja2 import Environment, FileSystemLoader, StrictUndefined

        self._environment = Environment(
            loader=FileSystemLoader(folder),
            variable_start_string="«",
            variable_end_string="»",
            block_start_string="«%",
            block_end_string="%»",
            comment_start_string="«#",
            comment_end_string="#»",
            trim_blocks=True,
            lstrip_blocks=True,
            undefined=StrictUndefined,
            keep_trailing_newline=True,
            autoescape=False,
            auto_reload=False,
        )
        self._environment.filters.update(filters)

    def fill(self, name: str, values: Mapping[str, Any]) -> str:
        """Return the text that a template makes of values."""
        return self._environment.get_template(name).render(values)


def python_text(value: object) -> str:
    """Spell a value as a Python literal; texts in double quotes where that needs no more escapes."""
    if isinstance(value, str):
        spelled = repr(value)
        return f'"{spelled[1:-1]}"' if spelled[0] == "'" and '"' not in value else spelled
    if isinstance(value, list):
        return "[" + ", ".join(python_text(item) for item in value) + "]"
    if isinstance(value, tuple):
        inner = ", ".join(python_text(item) for item in value)
        return f"({inner},)" if len(value) == 1 else f"({inner})"
    return repr(value)


def tidy_python(text: str) -> str:
    """Bring blank lines of a filled Python template in order: at most two, none at the end."""
    text = re.sub(r"[ \t]+\n", "\n", text)
    text = re.sub(r"\n{4,}", "\n\n\n", text)
    text = re.sub(r"\n{3,}(?=[ \t])", "\n\n", text)
    return text.strip("\n") + "\n" if text.strip() else ""


def tidy_lines(text: str) -> str:
    """Take out blank lines that control lines of a template leave."""
    return re.sub(r"\n{2,}", "\n", text).strip("\n") + "\n"


def html_attribute(value: object) -> str:
    """Spell a value as a quoted argument of a template tag in HTML."""
    return '"' + html.escape(str(value), quote=True) + '"'
