"""One name in, the whole name family out."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from typing import NamedTuple

from .errors import WrongUse
from .plurals import plural_of, singular_of

LONGEST_TITLE = 100
_FOLDED = {"ß": "ss", "æ": "ae", "œ": "oe", "ø": "o", "ł": "l", "đ": "d", "ð": "d", "þ": "th", "ı": "i"}
_WORD = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|[0-9]+")


def within_sentence(title: str) -> str:
    """Return a title as it stands within a sentence: ``Tide board`` as ``tide board``; names and acronyms keep theirs.

    Only a capital at the very beginning may be there for the sake of the beginning alone.
    """
    rest = title[1:]
    return title if rest != rest.lower() else title.lower()


def at_beginning(text: str) -> str:
    """Return a text that may stand within a sentence as a title: ``tide board`` as ``Tide board``."""
    return text[:1].upper() + text[1:] if text == text.lower() else text


class NameFamily(NamedTuple):
    """Every spelling derived from one name.

    title -- the name as people read it, e.g. ``Tide board``
    words -- its lower-case Latin words, e.g. ``("tide", "board")``
    owner -- the part before the module's own in hosts with two-part names, as words; may be empty
    """

    title: str
    words: tuple[str, ...]
    owner: tuple[str, ...] = ()

    @property
    def snake(self) -> str:
        """``tide_board``."""
        return "_".join(self.words)

    @property
    def kebab(self) -> str:
        """``tide-board``."""
        return "-".join(self.words)

    @property
    def dotted(self) -> str:
        """``tide.board``."""
        return ".".join(self.words)

    @property
    def camel(self) -> str:
        """``TideBoard``."""
        return "".join(word.capitalize() for word in self.words)

    @property
    def lower_camel(self) -> str:
        """``tideBoard``."""
        return self.camel[:1].lower() + self.camel[1:]

    @property
    def constant(self) -> str:
        """``TIDE_BOARD``."""
        return self.snake.upper()

    @property
    def singular(self) -> NameFamily:
        """The family whose last word is singular."""
        return self._last_word(singular_of(self.words[-1]))

    @property
    def plural(self) -> NameFamily:
        """The family whose last word is plural."""
        return self._last_word(plural_of(singular_of(self.words[-1])))

    @property
    def with_owner(self) -> NameFamily:
        """The family with the owner's words in front (``brindle_quay_tide_board``)."""
        return NameFamily(self.title, self.owner + self.words)

    def spellings(self) -> dict[str, str]:
        """Return every spelling by its name, for tables."""
        family = {
            "title": self.title,
            "snake": self.snake,
            "kebab": self.kebab,
            "dotted": self.dotted,
            "joined capitals": self.camel,
            "first letter lower": self.lower_camel,
            "constant": self.constant,
            "singular": self.singular.snake,
            "plural": self.plural.snake,
        }
        if self.owner:
            family["with owner"] = self.with_owner.snake
        return family

    def _last_word(self, word: str) -> NameFamily:
        if word == self.words[-1]:
            return self
        stem = self.title.rstrip()
        old = self.words[-1]
        if stem.lower().endswith(old):
            kept = stem[: len(stem) - len(old)]
            cased = word.capitalize() if stem[len(kept)].isupper() else word
            title = kept + cased
        else:
            title = " ".join((*self.words[:-1], word)).capitalize()
        return NameFamily(title, (*self.words[:-1], word), self.owner)


@lru_cache(maxsize=4096)
def words_of(text: str) -> tuple[tuple[str, ...], str]:
    """Split a name into lower-case Latin words; also return the letters that have no Latin spelling."""
    plain, foreign = (text, "") if text.isascii() else _folded(text)
    return tuple(word.lower() for word in _WORD.findall(re.sub(r"['’]", "", plain))), foreign


def words_as_parted(label: str) -> tuple[str, ...]:
    """Return the words of an internal name as it parts them: at its separators, else at its capitals.

    A digit belongs to the letters before it: ``tide_board2`` has the words ``tide`` and ``board2``.
    """
    parts = [part for part in re.split(r"[_.\- ]+", label) if part]
    if len(parts) == 1 and not label.islower():
        parts = re.findall(r"[A-Z]+(?![a-z])|[A-Z]?[a-z0-9]+", parts[0]) or parts
    return tuple(part.lower() for part in parts)


def _folded(text: str) -> tuple[str, str]:
    """Return a text in Latin letters without marks, and the letters that have no Latin spelling."""
    plain: list[str] = []
    foreign: list[str] = []
    for letter in text:
        folded = _FOLDED.get(letter.lower())
        if folded is not None:
            plain.append(folded.capitalize() if letter.isupper() else folded)
            continue
        for piece in unicodedata.normalize("NFKD", letter):
            if piece.isascii():
                plain.append(piece)
            elif unicodedata.category(piece).startswith("L"):
                foreign.append(letter)
                plain.append(" ")
            elif unicodedata.category(piece) != "Mn":
                plain.append(" ")
    return "".join(plain), "".join(foreign)


@lru_cache(maxsize=4096)
def name_family(text: str, *, internal: str = "", owner: str = "", what: str = "module") -> NameFamily:
    """Derive the family of a name.

    text     -- the name as typed: ``Tide board``, ``tide_board`` or ``TideBoard``
    internal -- the internal name when it cannot or shall not be derived from ``text``
    what     -- the sort of thing named, for messages

    Raises WrongUse when no usable spelling can be derived.
    """
    title = " ".join(text.split()) if text.strip() else ""
    if not title:
        raise WrongUse("name-empty", f"The {what} has no name.", 'Give a name, such as "Tide board".')
    if len(title) > LONGEST_TITLE:
        raise WrongUse(
            "name-too-long",
            f"The {what}'s name has {len(title)} characters; the longest allowed is {LONGEST_TITLE}.",
            "Give a short name and put the rest into the summary.",
        )
    unseen = "" if title.isprintable() else title.replace("\u200d", "")
    if any(unicodedata.category(letter).startswith("C") for letter in unseen):
        raise WrongUse(
            "name-control-character",
            f"The {what}'s name holds a control character.",
            "Type the name again, as plain text.",
        )
    words, foreign = words_of(internal or title)
    if foreign or not words:
        held = f"letters with no Latin spelling ({foreign[:20]})" if foreign else "no letters"
        given = internal or title
        remedy = (
            "Give a name in Latin letters."
            if internal
            else f"Keep the title and say the internal name as well: --internal {_example(what)}"
            if what == "module"
            else "Give the name in Latin letters; titles and help may be in any script."
        )
        raise WrongUse("name-not-latin", f"The {what}'s name {given!r} holds {held}.", remedy)
    if words[0][0].isdigit():
        raise WrongUse(
            "name-starts-with-digit",
            f"The {what}'s name {title!r} begins with a digit.",
            "Begin it with a letter; spell the number out or move it to the end.",
        )
    if re.fullmatch(r"[a-z0-9_]+|[A-Za-z0-9]+", title) and words_of(title)[0]:
        title = " ".join(words_of(title)[0]).capitalize()
    return NameFamily(title, words, words_of(owner)[0])


def _example(what: str) -> str:
    return "tide_board" if what == "module" else "Tide"
