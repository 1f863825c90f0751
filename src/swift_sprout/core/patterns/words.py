"""The words that vary between the modules of a pattern, and the values that a module gives them."""

from __future__ import annotations

from enum import Enum
from typing import NamedTuple

from ..errors import WrongUse
from ..names import LONGEST_TITLE, NameFamily, name_family, words_of

PLURAL_BEHIND = "/"  # parts a name from its plural where people type both: "Mouse / Mice"


class WordKind(Enum):
    """What a word names; all but ``TEXT``, which is a literal text, have a family of spellings."""

    MODULE = "module"
    RECORD = "record"
    WORD = "word"
    TEXT = "author"


class Value(NamedTuple):
    """What stands for a word in one module: a name, or a literal text, whose family has no words.

    plural -- the last word of a record's or another word's name in the plural, in small letters
    """

    family: NameFamily
    plural: str = ""

    @property
    def title(self) -> str:
        """The name as people read it, or the text."""
        return self.family.title

    @property
    def plural_title(self) -> str:
        """The plural as people read it."""
        stem = self.title[: len(self.title) - len(self.family.words[-1])]
        word = self.plural
        return stem + (word.capitalize() if self.title[len(stem)].isupper() else word)


class Word(NamedTuple):
    """A word that varies.

    kind  -- what it names
    value -- what stands for it in the module that the pattern was taken from, and so within the pattern's marks
    """

    kind: WordKind
    value: Value

    @property
    def key(self) -> str:
        """What people call it by: ``module``, ``author``, or its title."""
        by_title = self.kind in (WordKind.RECORD, WordKind.WORD)
        return self.value.title if by_title else self.kind.value

    @property
    def has_own_title(self) -> bool:
        """True where its title is a text of its own: an author's name, or one that the internal name does not tell."""
        return tuple(words_of(self.value.title)[0]) != self.value.family.words


def value_of(kind: WordKind, text: str, internal: str = "", plural: str = "") -> Value:
    """Return the value that a person typed for a word of a kind, such as ``Mouse / Mice`` for a record.

    internal -- the module's internal name, where it is not made from the title
    plural   -- the plural, where it does not stand in the text

    Raises WrongUse for a name that cannot be one.
    """
    if kind is WordKind.TEXT:
        return Value(NameFamily(checked_text(text), ()))
    if kind is WordKind.MODULE:
        return Value(name_family(text, internal=internal))
    name, _, behind = text.partition(PLURAL_BEHIND)
    family = name_family(name, what="record" if kind is WordKind.RECORD else "word")
    plural = behind.strip() or plural
    if not plural:
        return Value(family.singular, family.plural.words[-1])
    words, foreign = words_of(plural)
    if foreign or not words:
        raise WrongUse("plural-not-latin", f"The plural {plural!r} has no Latin spelling.", "Give it in Latin letters.")
    return Value(family, words[-1])


def is_plain(text: str) -> bool:
    """True for a text that stays what it is within quotes and on its line."""
    return bool(text) and text.isprintable() and len(text) <= LONGEST_TITLE and not set(text) & set('⟦⟧"\\')


def checked_text(text: str) -> str:
    """Return a literal text as it goes into files; raises WrongUse for one that would not stay on its line."""
    plain = text.strip()
    if not is_plain(plain):
        raise WrongUse(
            "text-not-plain",
            f"{text!r} cannot be filled in as it is.",
            f"Write one line of at most {LONGEST_TITLE} characters, without quotation marks and backslashes.",
        )
    return plain
