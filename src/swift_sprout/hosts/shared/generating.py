"""From the values of a brief to the files of a module, as the ``[[file]]`` tables of a kit say."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..contract.kitdata import KitData
from ..contract.kitfacts import MadeFile
from .rendering import (
    Templates,
    html_attribute,
    json_text,
    manifest_line,
    php_text,
    python_text,
    script_text,
    sql_name,
    tidy_python,
    xml_text,
)

Values = dict[str, Any]
_TEMPLATES: dict[str, Templates] = {}
_ESCAPES = {
    "python": python_text,
    "html": html_attribute,
    "script": script_text,
    "xml": xml_text,
    "ini": manifest_line,
    "sql": sql_name,
    "php": php_text,
    "json": json_text,
}
#  by the ending of a made file; a kit says further ones
_SYNTAXES = {
    "py": "python",
    "html": "html",
    "svg": "html",
    "css": "script",
    "js": "script",
    "xml": "xml",
    "cfg": "ini",
    "sql": "sql",
    "php": "php",
    "json": "json",
}


def templates_of(data: KitData) -> Templates:
    """Return the templates of a kit, read once."""
    key = str(data.folder)
    if key not in _TEMPLATES:
        escapes = {ending: _ESCAPES[name] for ending, name in {**_SYNTAXES, **data.facts.escapes}.items()}
        _TEMPLATES[key] = Templates([folder / "templates" for folder in data.folders], escapes)
    return _TEMPLATES[key]


def files_of(
    data: KitData, label: str, values: Values, last: tuple[Values, Mapping[str, bytes]] | None = None
) -> dict[str, bytes]:
    """Return the files that a kit's templates make: path below the module's folder, and content.

    label -- the module's name, which file names may hold
    last  -- other values of it with all its files: those whose values are the same are taken from there

    The same values and kit give the same bytes.
    """
    templates = templates_of(data)
    files: dict[str, bytes] = {}
    for entry in data.facts.file:
        if entry.when and not values[entry.when]:
            continue
        earlier = _parts_by_name(last[0], entry, label) if last is not None else {}
        for part in values[entry.each] if entry.each else [{}]:
            name = entry.writes.format(label=label, **part)
            if last is not None and name in last[1]:
                then = (last[0], earlier.get(name, {}))
                if _same(templates.names_in(entry.template), (values, part), then):
                    files[name] = last[1][name]
                    continue
            text = templates.fill(entry.template, values, part)
            files[name] = (tidy_python(text) if name.endswith(".py") else text).encode("utf-8")
    return files


def _parts_by_name(values: Values, entry: MadeFile, label: str) -> dict[str, Values]:
    """Return the parts of which an entry makes a file each, by its name; none for entries without parts."""
    parts = values.get(entry.each, ()) if entry.each else ()
    return {entry.writes.format(label=label, **part): dict(part) for part in reversed(parts)}


def _same(names: frozenset[str], now: tuple[Values, Values], then: tuple[Values, Values]) -> bool:
    """True when all values that a template takes at its top are the same; what stands deeper is held in those."""

    def taken(values: tuple[Values, Values], name: str) -> object:
        return values[1].get(name, values[0].get(name))

    return all(taken(now, name) == taken(then, name) for name in names)
