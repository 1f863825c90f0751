"""The facts of a pattern: which words vary, where it goes in a host, and which of its files may be left out."""

from __future__ import annotations

from collections.abc import Sequence
from fnmatch import fnmatchcase
from pathlib import PurePosixPath
from typing import NamedTuple

import tomli

from ..errors import Problem, WrongUse
from ..names import NameFamily, words_as_parted
from ..nearest import did_you_mean
from ..sections import TableWrong, section_from
from ..tomlplaces import line_of
from .words import Value, Word, WordKind, value_of

FORMAT = "swift-sprout/pattern/1"
FACTS_FILE = "pattern.toml"
HEAD = "# What varies in this pattern. Read by swift-sprout; edit it freely."


class _Name(NamedTuple):
    name: str
    internal: str = ""
    plural: str = ""


class Variant(NamedTuple):
    """A form of the pattern that leaves files out: their paths with marks, or ``*`` for any text."""

    name: str
    without: tuple[str, ...]


class Entry(NamedTuple):
    """A line that a module has in a file which is not its own: a list of modules, a menu."""

    file: str
    line: str


class _Table(NamedTuple):
    format: str
    folder: str
    module: _Name
    kit: str = ""
    summary: str = ""
    address: str = ""
    record: tuple[_Name, ...] = ()
    word: tuple[_Name, ...] = ()
    author: _Name | None = None
    entry: tuple[Entry, ...] = ()
    variant: tuple[Variant, ...] = ()


class Facts(NamedTuple):
    """What a pattern's file of facts says.

    folder   -- the module's folder in the host, with marks
    address  -- under which its pages go where that is chosen when it is enabled, with marks; empty for none
    kit      -- the kind of host that it was taken from; empty where no kit knows it
    words    -- what varies; the module's own name first
    entries  -- lines that its modules have elsewhere
    variants -- its forms that leave files out
    """

    folder: str
    kit: str
    words: tuple[Word, ...]
    summary: str = ""
    address: str = ""
    entries: tuple[Entry, ...] = ()
    variants: tuple[Variant, ...] = ()

    @property
    def module(self) -> Word:
        """The word that is the module's name."""
        return self.words[0]

    def of_kind(self, kind: WordKind) -> list[Word]:
        """Return the words of a kind, in order."""
        return [word for word in self.words if word.kind is kind]

    @property
    def asked(self) -> list[Word]:
        """The names that each module must give beside its own: a record with the module's own word follows it."""
        named = self.of_kind(WordKind.RECORD) + self.of_kind(WordKind.WORD)
        return [word for word in named if not self.follows_module(word)]

    def follows_module(self, word: Word) -> bool:
        """True for a record that is named as the module is, in the other number or not: ``pilots`` and ``Pilot``."""
        if word.kind is not WordKind.RECORD:
            return False
        return word.value.family.singular.words == self.module.value.family.singular.words

    def moved(self, path: str, place: str) -> str:
        """Return the path of one of its files for modules that lie in another folder; ``place`` is that folder."""
        old = self.folder.rpartition("/")[0]
        if old == place or (old and not path.startswith(f"{old}/")):
            return path
        below = path[len(old) + 1 :] if old else path
        return f"{place}/{below}" if place else below

    def variant(self, name: str) -> Variant:
        """Return a variant; raises WrongUse for one that is not there. Empty: the whole pattern."""
        if not name:
            return Variant("", ())
        for one in self.variants:
            if one.name == name:
                return one
        known = [one.name for one in self.variants]
        raise WrongUse("variant-unknown", f"The pattern has no variant {name!r}.", did_you_mean(name, known))

    @classmethod
    def read(cls, content: bytes, place: str) -> Facts:
        """Read the file; raises WrongUse with line and remedy for what is wrong in it.

        place -- the file, for messages
        """
        try:
            text = content.decode("utf-8-sig")
            table = tomli.loads(text)
        except UnicodeDecodeError:
            raise WrongUse("pattern-wrong", f"{place} is not UTF-8 text.", "Save it as UTF-8.") from None
        except tomli.TOMLDecodeError as error:
            raise WrongUse("pattern-wrong", f"{place} is not TOML: {error}.", "Fix the file.") from None
        try:
            found = section_from(_Table, table)
        except TableWrong as error:
            line = line_of(text, _path_of(error.key))
            at = f"{place}:{line}" if line else place
            raise WrongUse("pattern-wrong", f"{at}: {error.key}: {error.reason}.", error.remedy) from None
        if found.format != FORMAT:
            sentence = f"{place}: format is {found.format!r}, and this version reads {FORMAT!r}."
            raise WrongUse("pattern-wrong", sentence, "Take the pattern anew, or use the version that wrote it.")
        for key, path in (("folder", found.folder), *((f"entry[{n}].file", e.file) for n, e in enumerate(found.entry))):
            if not stays_inside(path):
                at = f"{place}:{line_of(text, _path_of(key))}"
                sentence = f"{at}: {path!r} is no path below the host's folder."
                raise WrongUse("pattern-wrong", sentence, "Name a path that starts at the host's folder.")
        words = [_word(WordKind.MODULE, found.module, place)]
        words += [_word(WordKind.RECORD, one, place) for one in found.record]
        words += [_word(WordKind.WORD, one, place) for one in found.word]
        if found.author is not None:
            words.append(_word(WordKind.TEXT, found.author, place))
        _refuse_twice(words, place)
        return cls(found.folder, found.kit, tuple(words), found.summary, found.address, found.entry, found.variant)

    def content(self) -> bytes:
        """Return the bytes of the file."""
        from ..brieftext import table_text

        top = {
            "format": FORMAT,
            "kit": self.kit,
            "summary": self.summary,
            "folder": self.folder,
            "address": self.address,
        }
        head = table_text("", {key: value for key, value in top.items() if value}).partition("\n")[2]
        pieces = [f"{HEAD}\n{head}"]
        for word in self.words:
            repeated = word.kind in (WordKind.RECORD, WordKind.WORD)
            pieces.append(table_text(word.kind.value, _said(word), repeated))
        pieces += [table_text("entry", {"file": one.file, "line": one.line}) for one in self.entries]
        pieces += [table_text("variant", {"name": one.name, "without": list(one.without)}) for one in self.variants]
        return "\n".join(pieces).encode("utf-8")


def stays_inside(path: str) -> bool:
    """True for a path that cannot lead out of the folder that it starts in."""
    parts = PurePosixPath(path).parts
    return bool(parts) and not path.startswith("/") and ".." not in parts and "\\" not in path and path.isprintable()


def left_out(path: str, variant: Variant) -> bool:
    """True for a file that a variant does without; ``path`` with marks, as in the pattern."""
    return any(fnmatchcase(path, one) for one in variant.without)


def _word(kind: WordKind, said: _Name, place: str) -> Word:
    try:
        value = value_of(kind, said.name, said.internal, said.plural)
    except WrongUse as error:
        raise WrongUse("pattern-wrong", f"{place}: {kind.value}: {error.sentence}", error.remedy) from None
    if kind is WordKind.MODULE and said.internal:  # as the module's own name parts its words: ``tide_board2``
        value = Value(NameFamily(said.name, words_as_parted(said.internal)))
    return Word(kind, value)


def _said(word: Word) -> dict[str, str]:
    value = word.value
    said = {"name": value.title}
    if word.kind is WordKind.MODULE:
        said["internal"] = value.family.snake
    elif value.plural:
        said["plural"] = value.plural
    return said


def _refuse_twice(words: Sequence[Word], place: str) -> None:
    problems = [
        Problem(place, f"{word.kind.value} {word.value.title!r} stands there twice")
        for number, word in enumerate(words)
        if any(word.value.family.words == one.value.family.words and word.kind is one.kind for one in words[:number])
    ]
    if problems:
        raise WrongUse("pattern-wrong", f"{place} names a word twice.", "Name each once.", tuple(problems))


def _path_of(key: str) -> tuple[str | int, ...]:
    """Return a dotted key such as ``record[1].plural`` as a path."""
    parts: list[str | int] = []
    for piece in key.split("."):
        name, bracket, number = piece.partition("[")
        parts.append(name)
        if bracket:
            parts.append(int(number.rstrip("]")))
    return tuple(parts)
