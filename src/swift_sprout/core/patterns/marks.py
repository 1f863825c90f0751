"""Marks: where a word of a pattern stands in a text, in the spelling that stands there: ``class ⟦TideBoard⟧:``.

A mark reads like the text that it stands for. What is filled in follows from its spelling: ``⟦tide_boards⟧`` becomes
``ferry_desks`` where ``⟦TideBoard⟧`` becomes ``FerryDesk``. A ``⟦`` that is no mark is written ``⟦⟦⟧``.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from ..names import within_sentence
from ..renaming.spellings import Renaming
from .prose import Written, way_of
from .words import Value, Word, WordKind

OPENS, CLOSES = "⟦", "⟧"
MARK = re.compile(f"{OPENS}({OPENS}|[^{OPENS}{CLOSES}\n]*){CLOSES}")
_JOINS = ("_", "-")


class Unfilled(Exception):
    """A mark that no word of the pattern has: on which line of the text, and what stands in it."""

    def __init__(self, line: int, mark: str) -> None:
        super().__init__(f"{line}: {mark}")
        self.line = line
        self.mark = mark


class Span(NamedTuple):
    """Where a word stands in a text."""

    start: int
    end: int


def marked(text: str, spans: Iterable[Span]) -> str:
    """Return a text with marks around some places; they must not overlap."""
    parts, last = [], 0
    for start, end in sorted(spans):
        parts += [_escaped(text[last:start]), OPENS, text[start:end], CLOSES]
        last = end
    return "".join([*parts, _escaped(text[last:])])


def _escaped(text: str) -> str:
    return text.replace(OPENS, f"{OPENS}{OPENS}{CLOSES}")


class _Mark(NamedTuple):
    """A mark of a template.

    held    -- what stands in it
    beside  -- a ``_`` or ``-`` that joins it to what stands beside it; empty for none
    written -- how several words are written in the place of a single one, where the spelling does not show that
    """

    held: str
    beside: str
    written: Written
    line: int


class Template:
    """A text with marks, taken apart once and filled in as often as modules are made.

    path   -- of the file that it is, by whose ending it is known whether people read it as prose
    joined -- what a text ends with where the host joins the words of the next name with nothing between them
    """

    def __init__(self, text: str, path: str = "", joined: re.Pattern[str] | None = None) -> None:
        self._pieces: list[str | _Mark] = []
        last, number = 0, 1
        for found in MARK.finditer(text):
            self._pieces.append(text[last : found.start()])
            number += text.count("\n", last, found.start())
            last = found.end()
            if found[1] == OPENS:
                self._pieces.append(OPENS)
                continue
            beside = next(
                (one for one in (text[last : last + 1], text[found.start() - 1 : found.start()]) if one in _JOINS), ""
            )
            before = text[text.rfind("\n", 0, found.start()) + 1 : found.start()]
            is_joined = joined is not None and joined.search(before) is not None
            written = Written.JOINED if is_joined else way_of(text, found.start(), last, path)
            self._pieces.append(_Mark(found[1], beside, written, number))
        self._pieces.append(text[last:])

    def changed_by(self, filling: Filling) -> list[int]:
        """Return the numbers of the marks, from 0, in whose place something else than they hold is filled in."""
        marks = [one for one in self._pieces if isinstance(one, _Mark)]
        return [number for number, mark in enumerate(marks) if filling.of(mark) != mark.held]

    def filled(self, filling: Filling) -> str:
        """Return the text with the values of a module; raises Unfilled."""
        return "".join(one if isinstance(one, str) else filling.of(one) for one in self._pieces)


class Filling:
    """The words of a pattern and the values of one module.

    joined -- what parts the words of the module's name where a single word in small letters stands in the pattern
    """

    def __init__(self, words: Sequence[Word], values: Mapping[Word, Value], joined: str = "_") -> None:
        self._texts = {word.value.title: values[word].title for word in words if word.has_own_title}
        names = [word for word in words if word.kind is not WordKind.TEXT]
        #  the module's name counts first where a record has the same word
        names.sort(key=lambda word: word.kind is not WordKind.MODULE)
        ways = {WordKind.MODULE: joined}
        self._names = [
            (word.value, values[word], renaming_of(word, values[word], joined=ways.get(word.kind, "_")))
            for word in names
        ]
        self._known: dict[_Mark, str] = {}

    def of(self, mark: _Mark) -> str:
        """Return what stands in the place of a mark; raises Unfilled."""
        key = mark._replace(line=0)
        if key not in self._known:
            self._known[key] = self._worked_out(mark)
        return self._known[key]

    def _worked_out(self, mark: _Mark) -> str:
        if mark.held in self._texts:
            return self._texts[mark.held]
        for old, new, renaming in self._names:
            after = renaming.respelled(mark.held, (mark.beside, ""))
            if after is not None:
                return _as_written(mark, old, new) or after
        raise Unfilled(mark.line, mark.held)


def renaming_of(word: Word, value: Value, others: Iterable[Word] = (), joined: str = "_") -> Renaming:
    """Return the renaming of a word to a value; ``others`` are words whose names may hold this one."""
    old = word.value
    plurals = (old.plural, value.plural or value.family.words[-1]) if old.plural else None
    held = [one.value.family for one in others if one is not word and one.kind is not WordKind.TEXT]
    return Renaming(old.family, value.family, held, joined=joined, plurals=plurals)


def _as_written(mark: _Mark, old: Value, new: Value) -> str | None:
    """Return a name of several words in the place of a single one, where it is not spelled as code; None where it is.

    A single word does not show how its words would be parted: ``tide`` in a sentence is ``ferry run``, and not
    ``ferry_run``.
    """
    held = mark.held
    if len(old.family.words) > 1 or mark.written is Written.CODE or held.isupper():
        return None
    in_plural = bool(old.plural) and held.lower() == old.plural != old.family.words[-1]
    if mark.written is Written.QUOTED and not in_plural:
        return None
    if mark.written is Written.JOINED:
        last = new.plural if in_plural else new.family.words[-1]
        return "".join([*new.family.words[:-1], last]) if held.islower() else None
    known = old.plural_title if in_plural else old.title
    if held.lower() == known.lower():
        title = new.plural_title if in_plural else new.title
    else:  # the module's title is another than its internal name
        title = " ".join(new.family.words).capitalize()
    return within_sentence(title) if held.islower() else title[:1].upper() + title[1:]
