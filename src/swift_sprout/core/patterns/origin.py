"""Where a module comes from: which pattern, in which state, with which words, and its files as they were filled in.

The file ``sprout.pattern`` lies in the module's folder. It is plain lines: a head, the words as JSON, and a line for
each file with its content, packed, so that later changes of the pattern can be merged into what people wrote since.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from typing import NamedTuple

from ..errors import Refused
from ..made import Made
from .words import Value, Word, WordKind, value_of

ORIGIN_FILE = "sprout.pattern"
FORMAT = "swift-sprout/origin/1"


class Origin(NamedTuple):
    """What a module keeps of the pattern that made it.

    pattern, variant -- their names; state -- what the pattern held then, in short
    place            -- the folder that the module lies in, below the host's root
    given            -- by the word's kind and key: its value and that value's plural
    files            -- by path below the host's root
    """

    pattern: str
    variant: str
    state: str
    place: str
    given: Mapping[tuple[str, str], tuple[str, str]]
    files: Mapping[str, bytes]

    @classmethod
    def of(
        cls,
        pattern: str,
        variant: str,
        state: str,
        place: str,
        values: Mapping[Word, Value],
        files: Mapping[str, bytes],
    ) -> Origin:
        """Keep what was filled in."""
        given = {}
        for word, value in values.items():
            shown = value.family.snake if word.kind is WordKind.MODULE else value.plural
            given[word.kind.value, word.key] = (value.title, shown)
        return cls(pattern, variant, state, place, given, files)

    def value(self, word: Word) -> Value | None:
        """Return the value of a word; None for one that the pattern did not have then."""
        title, more = self.given.get((word.kind.value, word.key), ("", ""))
        if not title:
            return None
        if word.kind is WordKind.MODULE:
            return value_of(word.kind, title, internal=more)
        return value_of(word.kind, title, plural=more)

    @classmethod
    def read(cls, content: bytes, place: str) -> Origin:
        """Read the file; raises Refused when it is broken."""
        try:
            head, words, files = content.split(b"\n", 2)
            said = json.loads(words)
            known, pattern, state = head.decode("ascii").split()
            if known != FORMAT:
                raise ValueError(known)
            given = {(row["kind"], row["word"]): (row["value"], row["more"]) for row in said["words"]}
            return cls(pattern, said["variant"], state, said["place"], given, Made.read(files, place).files)
        except (ValueError, KeyError, TypeError):
            raise Refused(
                "origin-broken",
                f"{place} does not begin with {FORMAT} and the words of a pattern; nothing was changed.",
                "Take the file back from your version control.",
            ) from None

    def content(self) -> bytes:
        """Return the bytes of the file."""
        rows = [
            {"kind": kind, "word": word, "value": value, "more": more}
            for (kind, word), (value, more) in self.given.items()
        ]
        words = json.dumps({"variant": self.variant, "place": self.place, "words": rows}, ensure_ascii=False)
        head = f"{FORMAT} {self.pattern} {self.state}\n{words}\n"
        return head.encode("utf-8") + Made(self.pattern, dict(self.files)).content()

    def renamed(
        self, title: str, internal: str, path: Callable[[str], str], text: Callable[[str, bytes], bytes]
    ) -> Origin:
        """Return it for a module of another name; ``path`` and ``text`` turn a path and a content into the new name."""
        given = {
            key: (title, internal) if key[0] == WordKind.MODULE.value else value for key, value in self.given.items()
        }
        return self._replace(given=given, files={path(one): text(one, held) for one, held in self.files.items()})
