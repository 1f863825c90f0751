"""The spellings of one name in texts and paths, and what each becomes under another name.

A spelling is the words of the name, in order, with one separator between them (none, ``_``, ``-``, ``.`` or a space)
and one way of using capitals. The last word may stand in the singular or the plural. Word limits part a name from what
only contains its letters: ``port`` is not found in ``report``, but ``TideBoard`` is in ``TideBoardConfig``.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import cached_property
from typing import NamedTuple

from ..names import NameFamily
from ..plurals import plural_of, singular_of

_SEPARATORS = "[_. -]?"
_AROUND_TITLES = frozenset("'\"`<>")


class Spelling(NamedTuple):
    """A spelling that was found: where it begins, what stands there and what it becomes, and how it parts its words."""

    start: int
    before: str
    after: str
    separator: str

    @property
    def end(self) -> int:
        """Where it ends."""
        return self.start + len(self.before)


class Renaming:
    """From one name to another.

    old, new -- the name families
    others   -- names that hold the old one, such as those of other modules: where they stand, nothing is found
    numbers  -- False to leave the other number of the last word alone, as where a record has that name
    joined   -- what parts the words of the new name where the old one is a single word in small letters
    plurals  -- the last words of both names in the plural, where that is looked for even in a single word
    """

    def __init__(
        self,
        old: NameFamily,
        new: NameFamily,
        others: Iterable[NameFamily] = (),
        numbers: bool = True,
        joined: str = "_",
        plurals: tuple[str, str] | None = None,
    ) -> None:
        self.old = old
        self.new = new
        self._joined = joined
        self.single = len(old.words) == 1
        self._others = [one for one in others if len(one.words) > len(old.words) and _holds(one.words, old.words)]
        forms = {old.words[-1]: new.words[-1]}
        if numbers and not self.single:
            last = new.words[-1]
            forms.setdefault(singular_of(old.words[-1]), singular_of(last))
            forms.setdefault(plural_of(singular_of(old.words[-1])), plural_of(singular_of(last)))
        if plurals is not None:
            forms.setdefault(*plurals)
        self._forms = forms

    @cached_property
    def pattern(self) -> re.Pattern[str]:
        """What finds candidates; names that hold the old one come first and take their place."""
        held = [_in_any_spelling(one.words) for one in sorted(self._others, key=lambda one: -len(one.words))]
        lasts = "|".join(re.escape(one) for one in sorted(self._forms, key=len, reverse=True))
        firsts = [re.escape(word) for word in self.old.words[:-1]]
        wanted = f"(?P<name>{_SEPARATORS.join([*firsts, f'(?:{lasts})'])})"
        return re.compile("|".join([*held, wanted]), re.IGNORECASE)

    @property
    def held(self) -> tuple[str, ...]:
        """The other names that hold the old one, as identifiers."""
        return tuple(spelled for one in self._others for spelled in (one.snake, one.kebab, one.camel))

    @cached_property
    def _in_small_letters(self) -> tuple[bytes, re.Pattern[bytes]]:
        """The first word, and the whole name in any spelling, in small letters: what is quick to look for."""
        lasts = "|".join(re.escape(one) for one in sorted(self._forms, key=len, reverse=True))
        firsts = [re.escape(word) for word in self.old.words[:-1]]
        first = self.old.words[0] if not self.single else ""
        return first.encode(), re.compile(_SEPARATORS.join([*firsts, f"(?:{lasts})"]).encode())

    def may_be_in(self, content: bytes) -> bool:
        """True where a content may hold the old name: most do not, and need no closer look."""
        small = content.lower()
        first, whole = self._in_small_letters
        return first in small and whole.search(small) is not None

    def find(self, text: str) -> Iterator[Spelling]:
        """Yield the spellings of the old name in a text."""
        for found in self.pattern.finditer(text):
            if found["name"] is None:
                continue
            before = found["name"]
            separator = _separator(before, self.old.words)
            if separator is None or not self._stands_alone(text, found.start(), found.end(), before, separator):
                continue
            around = text[found.start() - 1 : found.start()], text[found.end() : found.end() + 1]
            after = self._spelled(before, separator, around)
            if after is not None:
                yield Spelling(found.start(), before, after, separator)

    def apply(self, text: str) -> str:
        """Return a text with every spelling turned into the new name."""
        return respelled(text, self.find(text))

    def respelled(self, before: str, around: tuple[str, str] = ("", "")) -> str | None:
        """Return the new name as the old one is spelled in a text of its own; None where that is no spelling of it.

        around -- the letters that stand before and behind it
        """
        found = self.pattern.fullmatch(before)
        separator = _separator(before, self.old.words) if found is not None and found["name"] is not None else None
        return None if separator is None else self._spelled(before, separator, around)

    def _spelled(self, before: str, separator: str, around: tuple[str, str]) -> str | None:
        """Return the new name as the old one is spelled; None for a way of capitals that is none.

        around -- the letters before and behind
        """
        words = [*self.new.words[:-1], self._forms[_last_word(before, self.old.words).lower()]]
        titled = separator == " " or (self.single and before[:1].isupper() and set(around) & _AROUND_TITLES)
        if before == self.old.title and titled:
            return self.new.title
        if self.single and (not before[:1].isupper() or before.isupper()):
            separator = separator or next((one for one in around if one in ("_", "-")), self._joined)
        if before.islower():
            cased = words
        elif before.isupper() and (separator or len(before) > 1):
            cased = [word.upper() for word in words]
        else:
            found = _cased(before, self.old.words)
            if all(word[:1].isupper() and word[1:] == word[1:].lower() for word in found):
                cased = [word.capitalize() for word in words]
            elif all(word[:1].isupper() for word in found[1:]) and found[0].islower():
                cased = [words[0], *(word.capitalize() for word in words[1:])]
            elif found[0][:1].isupper() and all(word.islower() for word in found[1:]):
                cased = [words[0].capitalize(), *words[1:]]
            else:
                return None
        return separator.join(cased)

    @staticmethod
    def _stands_alone(text: str, start: int, end: int, before: str, separator: str) -> bool:
        """True where the letters beside a candidate begin or end another word."""
        left, right = text[start - 1 : start], text[end : end + 1]
        if left.isalnum() and not (before[0].isupper() and (left.islower() or left.isdigit())):
            return False
        if right.isdigit():
            return False  # another of the name's sort
        ends_low = before[-1].islower()
        return not right.isalpha() or (right.isupper() and ends_low and separator != " ")


def respelled(text: str, found: Iterable[Spelling]) -> str:
    """Return a text with spellings that were found in it, in order, turned into what they become."""
    parts, last = [], 0
    for one in found:
        parts += [text[last : one.start], one.after]
        last = one.end
    return "".join([*parts, text[last:]])


def _holds(words: tuple[str, ...], part: tuple[str, ...]) -> bool:
    return any(words[at : at + len(part)] == part for at in range(len(words) - len(part) + 1))


def _in_any_spelling(words: Iterable[str]) -> str:
    return _SEPARATORS.join(map(re.escape, words))


def _separator(before: str, words: tuple[str, ...]) -> str | None:
    """Return what parts the words of a candidate; None where it is not the same everywhere."""
    if len(words) == 1:
        return ""
    found, rest = set(), before
    for word in words[:-1]:
        rest = rest[len(word) :]
        found.add(rest[:1] if not rest[:1].isalnum() else "")
        rest = rest.lstrip("_. -")
    return found.pop() if len(found) == 1 else None


def _cased(before: str, words: tuple[str, ...]) -> list[str]:
    """Return the words of a candidate as they are written."""
    found, rest = [], before
    for word in words[:-1]:
        found.append(rest[: len(word)])
        rest = rest[len(word) :].lstrip("_. -")
    return [*found, rest]


def _last_word(before: str, words: tuple[str, ...]) -> str:
    return _cased(before, words)[-1]
