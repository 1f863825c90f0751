"""The owner's part of a module's name, wherever it stands before the module's own: a namespace, a package, a path."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator

from ..names import NameFamily, words_as_parted
from .spellings import Renaming, Spelling, respelled

#  what parts an owner from the name that follows: a namespace in code and in a text in quotes, a package, an identifier
_BETWEEN = re.compile(r"(?:\\{1,2}|::|[/_.-])")
_WORD_BEFORE = re.compile(rf"(?<![\w-])([A-Za-z]\w*(?:-\w+)*?){_BETWEEN.pattern}$")


class OwnerRenaming:
    """From one owner's part of a module's name to another.

    module   -- the module's name; old, new -- the words of the owner, before and after
    """

    def __init__(self, module: NameFamily, old: tuple[str, ...], new: tuple[str, ...]) -> None:
        self.old, self.new = old, new
        self._owner = Renaming(NameFamily(" ".join(old), old), NameFamily(" ".join(new), new))
        self._module = Renaming(module, module)

    def may_be_in(self, content: bytes) -> bool:
        """True where a content may hold the owner's name: most do not, and need no closer look."""
        return self._owner.may_be_in(content)

    def find(self, text: str) -> Iterator[Spelling]:
        """Yield where the owner stands before the module's name."""
        names = {one.start: one for one in self._module.find(text)}
        for one in self._owner.find(text):
            between = _BETWEEN.match(text, one.end)
            if between is not None and between.end() in names:
                yield one._replace(after=self._spelled(one, between.group(), names[between.end()].separator))

    def _spelled(self, one: Spelling, between: str, in_module: str) -> str:
        """Return the new owner as the old one is spelled; words of one that was a single word are joined as others are.

        between, in_module -- what parts owner and module there, and the words of the module
        """
        if len(self.old) > 1 or not one.before.islower():
            return self._owner.respelled(one.before) or one.after
        joined = between if between in ("_", "-") else in_module or ("-" if between == "/" else "_")
        return joined.join(self.new)

    def apply(self, text: str) -> str:
        """Return a text with every such owner renamed."""
        return respelled(text, self.find(text))


def owner_in(texts: Iterable[str], module: NameFamily) -> tuple[str, ...]:
    """Return the words of the owner that stands before a module's name in texts; none where they name several."""
    found: Counter[tuple[str, ...]] = Counter()
    name = Renaming(module, module)
    for text in texts:
        for one in name.find(text):
            before = _WORD_BEFORE.search(text, 0, one.start)
            if before is not None and (
                text[one.start - 1] == "\\" or (one.separator == "-" and text[one.start - 1] == "/")
            ):
                found[words_as_parted(before[1])] += 1
    return next(iter(found)) if len(found) == 1 else ()
