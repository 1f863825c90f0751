"""Filling a kit's templates. Values enter a template only through the escaping of the syntax that it makes.

Templates are Mustache with « and » for marks, so that they read like the file they make and meet neither the braces of
a host's own templates nor those of its language. ``«title»`` is escaped for the file's syntax: in Python it becomes a
literal, in HTML a quoted attribute. ``«&name»`` stands as it is and is for identifiers and code that the kit made.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

_NAME = re.compile("«[#^&/]?([a-z_]+)»")
#  as html.escape does; that module brings the names of two thousand letters along
_HTML = str.maketrans({"&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;", "'": "&#x27;"})


class Templates:
    """The templates of folders, the first that has one; ``escapes`` tells the escaping by a made file's ending."""

    def __init__(self, folders: Sequence[Path], escapes: Mapping[str, Callable[[str], str]]) -> None:
        from pystache.parser import parse
        from pystache.renderer import Renderer

        self._folders = folders
        self._parse = parse
        self._parsed: dict[str, Any] = {}
        self._names: dict[str, frozenset[str]] = {}
        self._renderers = {ending: Renderer(escape=escape, missing_tags="strict") for ending, escape in escapes.items()}

    def names_in(self, name: str) -> frozenset[str]:
        """Return the names of the values that a template takes, at any depth."""
        if name not in self._names:
            self._names[name] = frozenset(_NAME.findall(self._text(name)))
        return self._names[name]

    def _text(self, name: str) -> str:
        return next(folder / name for folder in self._folders if (folder / name).is_file()).read_text("utf-8")

    def fill(self, name: str, *values: Mapping[str, Any]) -> str:
        """Return the text that a template makes of values; a key is looked up in the last mapping that has it."""
        if name not in self._parsed:
            self._parsed[name] = self._parse(self._text(name), delimiters=("«", "»"))
        renderer = self._renderers[name.removesuffix(".mustache").rpartition(".")[2]]
        filled: str = renderer.render(self._parsed[name], *values)
        return filled


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
    if isinstance(value, set):
        return "{" + ", ".join(python_text(item) for item in sorted(value)) + "}"
    if isinstance(value, dict):
        return "{" + ", ".join(f"{python_text(key)}: {python_text(item)}" for key, item in value.items()) + "}"
    return repr(value)


def php_text(value: object) -> str:
    """Spell a value as a PHP literal: in single quotes nothing but quotes and backslashes means anything."""
    if value is None or isinstance(value, bool):
        return {None: "null", True: "true", False: "false"}[value]
    if isinstance(value, str):
        return "'" + value.replace("\\", "\\\\").replace("'", "\\'") + "'"
    if isinstance(value, list):
        return "[ " + ", ".join(php_text(item) for item in value) + " ]" if value else "[]"
    if isinstance(value, dict):
        pairs = ", ".join(f"{php_text(key)} => {php_text(item)}" for key, item in value.items())
        return f"[ {pairs} ]" if value else "[]"
    return repr(value)


def json_text(value: object) -> str:
    """Spell a value as JSON."""
    return json.dumps(value, ensure_ascii=False)


def python_docstring(text: str) -> str:
    """Spell a text as a docstring: in three quotes, or as a plain literal where it holds what those cannot."""
    if any(sign in text for sign in ('"', "\\")) or not text.isprintable():
        return python_text(text)
    return f'"""{text}"""'


def tidy_python(text: str) -> str:
    """Bring blank lines of a filled Python template in order: at most two, none at the end."""
    text = re.sub(r"[ \t]+\n", "\n", text)
    text = re.sub(r"\n{4,}", "\n\n\n", text)
    text = re.sub(r"\n{3,}(?=[ \t])", "\n\n", text)
    return text.strip("\n") + "\n" if text.strip() else ""


def html_attribute(value: object) -> str:
    """Spell a value as a quoted attribute, or a quoted argument of a template tag, in HTML."""
    return '"' + str(value).translate(_HTML) + '"'


def script_text(value: object) -> str:
    """Spell a value as a quoted text of a style sheet or script."""
    return json.dumps(str(value)).replace("<", "\\u003c")


def xml_text(value: object) -> str:
    """Spell a value as text of an XML file, inside an element or between the quotes of an attribute."""
    shown = "".join(letter for letter in str(value) if letter in "\t\n" or letter.isprintable())
    return shown.translate(_HTML)


def sql_name(value: object) -> str:
    """Spell a value as a quoted name of SQL."""
    return '"' + str(value).replace('"', '""') + '"'


def manifest_line(value: object) -> str:
    """Spell a value as one line of an INI file in which ``%`` stands for interpolation."""
    return " ".join(str(value).split()).replace("%", "%%")
