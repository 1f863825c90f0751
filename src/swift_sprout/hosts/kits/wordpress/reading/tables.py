"""The tables that a module's statements make, where its files spell them."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .modules import ModuleFiles

_JOINED = r"[`\"'\s.]*"  # quotes and dots between the pieces of a statement
_CREATE = re.compile(
    rf"CREATE\s+TABLE\s+(?:IF\s+NOT\s+EXISTS\s+)?{_JOINED}\{{?\$wpdb->(?:base_)?prefix\}}?{_JOINED}([a-z][a-z0-9_]*)",
    re.IGNORECASE,
)


def created_tables(module: ModuleFiles) -> list[str]:
    """Return the names of the tables, without the host's prefix, as far as they stand behind it in a statement."""
    return list(dict.fromkeys(name for content in module.contents.values() for name in tables_in(content)))


def tables_in(content: bytes) -> list[str]:
    """Return the tables whose statements stand in what a file holds."""
    return _CREATE.findall(content.decode("utf-8", "replace"))
