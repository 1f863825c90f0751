"""Which refresh a host needs after a change: data of the kit, matched against the files that changed."""

from __future__ import annotations

import fnmatch
from collections.abc import Iterable
from typing import Literal, NamedTuple

KINDS = ("nothing", "reload", "clear", "migrate", "rebuild", "restart")


class RefreshRule(NamedTuple):
    """Which refresh a change asks for.

    files -- patterns of files, below the host's folder
    kind  -- what is to be done
    why   -- what to do, and why, as a clause; for ``nothing`` the reason alone
    """

    files: tuple[str, ...]
    kind: Literal["nothing", "reload", "clear", "migrate", "rebuild", "restart"]
    why: str


class Refresh(NamedTuple):
    """One refresh: its kind, what to do and why, and the files that ask for it."""

    kind: str
    why: str
    files: tuple[str, ...]


def refreshes(rules: Iterable[RefreshRule], paths: Iterable[str]) -> list[Refresh]:
    """Return the refreshes that changed files ask for, cheapest first; ``nothing`` alone when none is needed.

    rules -- those of the kit; each file counts for the first that fits it
    """
    found: dict[tuple[str, str], list[str]] = {}
    for path in paths:
        for rule in rules:
            if any(fnmatch.fnmatch("/" + path, pattern) for pattern in rule.files):
                found.setdefault((rule.kind, rule.why), []).append(path)
                break
    needed = [Refresh(kind, why, tuple(files)) for (kind, why), files in found.items() if kind != "nothing"]
    return sorted(needed, key=lambda one: KINDS.index(one.kind)) or [Refresh("nothing", "no running part changed", ())]
