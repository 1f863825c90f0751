"""Identifiers that changed with a name, for what is kept beside files: names of tables, keys, ids."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import NamedTuple


class Identifiers(NamedTuple):
    """The identifiers that changed in a module's files.

    names -- what each was, and what it is now
    held  -- identifiers of other modules that hold one of those: a text with one of them stays
    whole -- True where an identifier may be a common word: then it does not count as a part of a longer one
    """

    names: Mapping[str, str]
    held: tuple[str, ...] = ()
    whole: bool = False

    @property
    def back(self) -> Identifiers:
        """The same the other way."""
        return self._replace(names={new: old for old, new in self.names.items()})

    def as_data(self) -> dict[str, object]:
        """Return it for a program of the host."""
        return {"names": dict(self.names), "held": list(self.held), "whole": self.whole}

    def renamed(self, text: str) -> str:
        """Return a text with identifiers changed where they stand as words of their own, the longest first."""
        if any(other in text for other in self.held):
            return text
        beside = "A-Za-z0-9_-" if self.whole else "A-Za-z0-9"
        names = sorted(self.names, key=len, reverse=True)
        ends = ("" if one.endswith(("_", "-")) else f"(?![{beside}])" for one in names)
        parts = (f"({re.escape(one)}{end})" for one, end in zip(names, ends, strict=True))
        #  in one go: a new name may hold an old one
        pattern = re.compile(rf"(?<![{beside}])(?:{'|'.join(parts)})")
        return pattern.sub(lambda found: self.names[names[(found.lastindex or 1) - 1]], text) if names else text
