"""A record's other name in what people wrote: learnt from what the generator makes of either name.

Made once with the old name and once with the new one, a file tells which of its words mean the record: those that stand
less often afterwards. A word that stays as often as it was is something else, such as a field that is called alike.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from fnmatch import fnmatchcase
from functools import cached_property
from pathlib import PurePosixPath

from ..names import NameFamily
from ..parts.records import Record
from .contents import is_text
from .occurrences import BEGINS_IMPORT, Occurrence, taken
from .spellings import Renaming, Spelling

_WORD = re.compile(r"\w+")


def record_renaming(old: Record, new: Record, others: Iterable[NameFamily], joined: str = "_") -> Renaming:
    """Return the renaming of a record; ``others`` are names that may hold its name, such as the module's.

    joined -- what parts the words of the new name where the old one is a single word in small letters
    """
    plurals = (old.plural.words[-1], new.plural.words[-1])
    return Renaming(old.name, new.name, others, joined=joined, plurals=plurals)


class RenamedRecords:
    """What new names of records make of the files of their module.

    pairs         -- each record that has another name, and what it is now
    others        -- names that may hold those of the records, which stay
    before, after -- what is made of the brief with the old names and with the new ones: content by path
    folder, kept  -- the module's folder, and patterns of files in it whose names and contents the host remembers
    label         -- the module's name, behind which a name below it means the record
    joined_after  -- what stands before a name whose words the host joins with nothing between
    """

    def __init__(
        self,
        pairs: Sequence[tuple[Record, Record]],
        others: Iterable[NameFamily],
        before: Mapping[str, bytes],
        after: Mapping[str, bytes],
        folder: str = "",
        kept: Iterable[str] = (),
        label: str = "",
        joined_after: re.Pattern[str] | None = None,
    ) -> None:
        families = list(others)
        #  as most names are parted, and as a host may join them: what is made tells which
        self._renamings = [[record_renaming(*pair, families, joined) for joined in ("_", "")] for pair in pairs]
        self._folder = folder
        self._below_module = re.compile(rf"(?<![\w.-]){re.escape(label)}\.(?:[a-z]+_)?$") if label else None
        self._joined_after = joined_after
        self._before = before
        self._after = after
        self._kept = tuple(kept)

    @cached_property
    def moves(self) -> dict[str, str]:
        """The files that are made under another path: where each lay, and where it lies."""
        gone = [path for path in self._before if path not in self._after]
        come = [path for path in self._after if path not in self._before]
        if len(gone) != len(come):
            return {}
        alike = all(PurePosixPath(a).suffix == PurePosixPath(b).suffix for a, b in zip(gone, come, strict=True))
        return dict(zip(gone, come, strict=True)) if alike else {}

    @cached_property
    def _moved_stems(self) -> frozenset[str]:
        return frozenset(PurePosixPath(path).stem for path in self.moves)

    def __bool__(self) -> bool:
        return bool(self._renamings)

    def in_file(self, path: str) -> Callable[[bytes], bytes]:
        """Return what turns a content of a made file into the new names."""
        return lambda content: self.changed(path, content)[0]

    def changed(self, path: str, content: bytes, code: bool = True) -> tuple[bytes, list[Occurrence]]:
        """Return a file of the module with the records' new names, and the places that are left to a person.

        path -- below the module's folder; code -- False for a file in which names stand among words of people
        """
        kept = any(fnmatchcase(f"{self._folder}/{path}", one) for one in self._kept)
        if not self or kept or not is_text(content) or content == self._before.get(path) == self._after.get(path):
            return content, []
        known = self._words_of(path)
        if known is None:
            return self._by(content, path, lambda word: code and word in self._sure)
        return self._by(content, path, lambda word: word in known)

    def elsewhere(self, path: str, content: bytes, names_module: re.Pattern[str]) -> tuple[bytes, list[Occurrence]]:
        """Return a file outside of the module with the new names where the module is named in the same line or import.

        names_module -- what is found in a line that names the module
        """
        text = content.decode("utf-8", "replace") if is_text(content) else ""
        lines = [line for line in text.splitlines() if names_module.search(line)]
        if not lines:
            return content, []
        brought = {word for line in lines for word in _WORD.findall(line)} & self._sure
        return self._by(content, path, lambda word: word in brought) if brought else (content, [])

    @cached_property
    def _sure(self) -> frozenset[str]:
        """The words that mean a record wherever they stand: those that are made nowhere now, and are no plain word."""
        before = self._named_in(self._before.values())
        return frozenset(word for word in before - self._made_now if word != word.lower() or "_" in word)

    @cached_property
    def _made_now(self) -> frozenset[str]:
        return self._named_in(self._after.values())

    @cached_property
    def _new_words(self) -> frozenset[str]:
        return frozenset(word for content in self._after.values() for word in _words(content))

    def _named_in(self, contents: Iterable[bytes]) -> frozenset[str]:
        """Return the words of contents that hold the old name of a record."""
        texts = [content.decode("utf-8", "replace") for content in contents if is_text(content)]
        return frozenset(
            _word_at(text, one)[0] for text in texts for way, _ in self._renamings for one in way.find(text)
        )

    def _words_of(self, path: str) -> frozenset[str] | None:
        """Return the words of a file that mean a record there; None for one of which nothing can be learnt."""
        before, after = self._before.get(path), self._after.get(self.moves.get(path, path))
        if before is None or after is None or before == after:
            return None
        return (self._named_in([before]) - self._named_in([after])) | self._sure

    def _by(self, content: bytes, path: str, means_record: Callable[[str], bool]) -> tuple[bytes, list[Occurrence]]:
        """Return a content with the spellings renamed whose whole word is meant, and the others as doubtful places."""
        text = content.decode("utf-8", "surrogateescape")
        left: list[Occurrence] = []
        for parted, joined in self._renamings:
            if not parted.may_be_in(text.encode("utf-8", "surrogateescape")):
                continue
            chosen: list[Occurrence] = []
            for one in parted.find(text):
                other = one._replace(after=joined.respelled(one.before) or one.after)
                word, begins = _word_at(text, one)
                line = text[text.rfind("\n", 0, one.start) + 1 : one.start]
                if BEGINS_IMPORT.search(line) and word not in self._moved_stems:
                    continue  # a file of that name, which keeps it
                is_joined = self._joined_after is not None and self._joined_after.search(line)
                if is_joined or _in_word(word, begins, other) in self._new_words:
                    one = other
                below = self._below_module is not None and self._below_module.search(line)
                doubtful = not (below or BEGINS_IMPORT.search(line) or means_record(word))
                number = text.count("\n", 0, one.start) + 1
                where = Occurrence(path, number, one.start, one.before, one.after, "code", doubtful)
                (left if doubtful else chosen).append(where)
            text = taken(text, chosen)
        return text.encode("utf-8", "surrogateescape"), left


def _words(content: bytes) -> list[str]:
    return _WORD.findall(content.decode("utf-8", "replace")) if is_text(content) else []


def _word_at(text: str, one: Spelling) -> tuple[str, int]:
    """Return the whole word that holds a spelling, and where it begins; a spelling of several words stands alone."""
    begins = one.start
    while begins and (text[begins - 1].isalnum() or text[begins - 1] == "_"):
        begins -= 1
    found = _WORD.match(text, begins)
    return (found.group(), begins) if found and found.end() >= one.end else (one.before, one.start)


def _in_word(word: str, begins: int, one: Spelling) -> str:
    at = one.start - begins
    return f"{word[:at]}{one.after}{word[at + len(one.before) :]}"
