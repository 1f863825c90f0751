"""The tables that a module's statements make, where its files spell them."""

from __future__ import annotations

import re
from collections.abc import Iterable
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


#  the host's own tables, without its prefix (its reference of the database, 6.1; networks of sites included)
HOSTS_TABLES = frozenset(
    {"posts", "postmeta", "comments", "commentmeta", "links", "options", "terms", "termmeta", "term_taxonomy"}
    | {"term_relationships", "users", "usermeta", "blogs", "blogmeta", "site", "sitemeta", "signups"}
    | {"registration_log", "blog_versions"}
)
_ANY_CREATE = re.compile(rb"CREATE\s+TABLE\s", re.IGNORECASE)


def tables_spelled(module: ModuleFiles, there: Iterable[str], others: Iterable[ModuleFiles]) -> list[str]:
    """Return the tables in the database that a module's statements make without spelling them there.

    there -- the names of the tables in the database, without the host's prefix

    A table counts that the module spells somewhere, and no other module and not the host; none counts where there are
    more of them than statements that make a table of a name that is put together: they may be read, not made.
    """
    statements = sum(len(_ANY_CREATE.findall(content)) for content in module.contents.values())
    named = created_tables(module)
    found = []
    for name in there:
        word = re.compile(rb"(?<![A-Za-z0-9_])%b(?![A-Za-z0-9_])" % re.escape(name.encode()))
        if name in HOSTS_TABLES or name in named or not any(word.search(held) for held in module.contents.values()):
            continue
        if not any(word.search(held) for other in others for held in other.contents.values()):
            found.append(name)
    return found if len(found) <= statements - len(named) else []
