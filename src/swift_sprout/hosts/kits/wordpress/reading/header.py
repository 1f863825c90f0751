"""The header of a main file: what the host reads of a module before it runs any of it.

Source of the law: the host's ``get_file_data`` (6.1): the first 8 KiB, a key at the beginning of a line behind comment
signs, up to the line's end; of the folder below that for modules it looks at files, and one folder down.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import NamedTuple

READ_BYTES = 8192
KEYS = (
    "Plugin Name",
    "Description",
    "Version",
    "Requires at least",
    "Requires PHP",
    "Requires Plugins",
    "Author",
    "License",
    "Text Domain",
    "Domain Path",
)


class Header(NamedTuple):
    """What a header says, and on which line each key stands."""

    values: dict[str, str]
    lines: dict[str, int]

    def get(self, key: str) -> str:
        """Return what a key says; empty when it is not there."""
        return self.values.get(key, "")


def read_header(path: Path, name: str = "Plugin Name") -> Header | None:
    """Return the header of a file; None when it has no name, so that the host sees no module in it.

    name -- the key that says the name; it is kept as ``Plugin Name`` whatever it is
    """
    try:
        with path.open("rb") as handle:
            text = handle.read(READ_BYTES).decode("utf-8", "replace").replace("\r", "\n")
    except OSError:
        return None
    values: dict[str, str] = {}
    lines: dict[str, int] = {}
    for key in KEYS:
        said = name if key == "Plugin Name" else key
        found = re.search(rf"^(?:[ \t]*<\?php)?[ \t/*#@]*{re.escape(said)}:(.*)$", text, re.MULTILINE | re.IGNORECASE)
        if found and (value := re.sub(r"\s*(?:\*/|\?>).*", "", found.group(1)).strip()):
            values[key] = value
            lines[key] = text.count("\n", 0, found.start(1)) + 1
    return Header(values, lines) if values.get("Plugin Name") else None


def nearly_header(path: Path) -> int:
    """Return the line on which a file seems to mean a header whose name the host does not see; 0 for none."""
    try:
        text = path.read_bytes()[: 4 * READ_BYTES].decode("utf-8", "replace")
    except OSError:
        return 0
    found = re.search(
        r"^[ \t/*#@]*(?:Plugin[ _-]*Name|Plugin|Module Name|Name)\s*[:=].*$", text, re.MULTILINE | re.IGNORECASE
    )
    return text.count("\n", 0, found.start()) + 1 if found else 0
