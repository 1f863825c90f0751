"""``new --pattern``: modules made from a pattern, one or as many as a list has rows, in one change set."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from ...core.changes import ChangeSet
from ...core.errors import Problem, Refused, SproutError, WrongUse
from ...core.names import NameFamily
from ...core.nearest import did_you_mean
from ...core.patterns import FOLDER
from ...core.patterns.entries import with_entry
from ...core.patterns.facts import FACTS_FILE, Variant
from ...core.patterns.marks import Filling, Template
from ...core.patterns.origin import ORIGIN_FILE, Origin
from ...core.patterns.pattern import Filled, Pattern
from ...core.patterns.results import Batch, FromPattern
from ...core.patterns.words import Value, Word, WordKind, value_of
from ...core.plurals import plural_of
from ..hosting import OpenHost, carried_out
from .store import read_pattern, with_catalogues


class Given(NamedTuple):
    """What is given for one module: texts as people type them.

    records -- in the order of the pattern's; others -- by the pattern's words
    place   -- where it was given, for messages: empty on the command line, else file and line
    """

    name: str
    internal: str = ""
    records: tuple[str, ...] = ()
    others: Mapping[str, str] = {}
    author: str = ""
    place: str = ""


def missing(pattern: Pattern, given: Given) -> list[Word]:
    """Return the words of a pattern that nothing was given for; an author may be left out."""
    return [word for word in pattern.facts.asked if not _given(pattern, given, word)]


def make_from(opened: OpenHost, name: str, given: Sequence[Given], variant: str, folder: str, preview: bool) -> Batch:
    """Make a module of a pattern for each that is given: all of them or none.

    variant -- of the pattern; folder -- where in the host, empty for where the pattern says

    Raises WrongUse for words that are missing or cannot be, Refused where a name or a file is taken.
    """
    title = f"new {given[0].name}" if len(given) == 1 else f"new {len(given)} modules"
    return carried_out(opened, f"{title} from {name}", lambda: _planned(opened, name, given, variant, folder), preview)


def _planned(opened: OpenHost, name: str, given: Sequence[Given], variant: str, folder: str) -> Batch:
    pattern = read_pattern(opened, name)
    _refuse_other_kit(opened, pattern)
    chosen = pattern.facts.variant(variant)
    changes = ChangeSet(f"new {len(given)} modules from {name}" if len(given) > 1 else f"new {given[0].name}")
    press = _Press(opened, pattern, chosen, folder, changes)
    batch = Batch([], changes, opened.host.registers)
    problems: list[Problem] = []
    for one in given:
        try:
            batch.modules.append(press.module(one))
        except SproutError as error:
            if len(given) == 1:
                raise
            problems.append(Problem(one.place, error.sentence, error.remedy))
            problems += [Problem(one.place, inner.what, inner.remedy) for inner in error.problems]
    if problems:
        raise WrongUse("rows-wrong", "Rows of the list are wrong; nothing was made.", "Fix them.", tuple(problems))
    return batch


def _refuse_other_kit(opened: OpenHost, pattern: Pattern) -> None:
    if pattern.facts.kit != opened.kit.data.id:
        raise WrongUse(
            "pattern-other-host",
            f"The pattern {pattern.name} was taken on another kind of host ({pattern.facts.kit or 'not known'}).",
            f"Take one of a module of this host, or change kit in {FOLDER}/{pattern.name}/{FACTS_FILE}.",
        )


def values_of(pattern: Pattern, given: Given) -> dict[Word, Value]:
    """Return the values of a pattern's words; raises WrongUse for those that are missing, too many or unknown."""
    facts = pattern.facts
    known = [word.key for word in facts.asked]
    for key in given.others:
        if not any(_same(key, word) for word in facts.asked):
            raise WrongUse("word-unknown", f"The pattern has no word {key!r}.", did_you_mean(key, known))
    records = [word for word in facts.asked if word.kind is WordKind.RECORD]
    if len(given.records) > len(records):
        raise WrongUse(
            "records-too-many",
            f"The pattern has {len(records)} records to name, and {len(given.records)} names were given.",
            f"Its records: {', '.join(word.key for word in records) or 'none'}.",
        )
    values: dict[Word, Value] = {}
    for word in facts.words:
        text = _given(pattern, given, word)
        if word.kind is WordKind.MODULE:
            values[word] = value_of(word.kind, given.name, internal=given.internal)
        elif text:
            values[word] = value_of(word.kind, text)
        elif word.kind is WordKind.TEXT:
            values[word] = word.value  # the pattern's own author stays where nobody else is named
        elif facts.follows_module(word):
            values[word] = _as_module(values[facts.module], word)
        else:
            raise WrongUse(
                "word-missing",
                f"The pattern {pattern.name} needs a name in the place of {word.key}.",
                f'Add --record "NAME"; its words: {", ".join(known)}.'
                if word.kind is WordKind.RECORD
                else f'Add --word "{word.key}=NAME".',
            )
    return values


def _as_module(module: Value, word: Word) -> Value:
    """Return the name of a record that is named as its module is."""
    family = module.family
    if word.value.family.words == word.value.family.singular.words:
        family = family.singular
    title = " ".join(family.words).capitalize()
    return Value(NameFamily(title, family.words), plural_of(family.singular.words[-1]))


def _given(pattern: Pattern, given: Given, word: Word) -> str:
    if word.kind is WordKind.TEXT:
        return given.author
    for key, text in given.others.items():
        if _same(key, word):
            return text
    records = [one for one in pattern.facts.asked if one.kind is WordKind.RECORD]
    records = [one for one in records if not any(_same(key, one) for key in given.others)]
    return given.records[records.index(word)] if word in records[: len(given.records)] else ""


def _same(key: str, word: Word) -> bool:
    return key.strip().lower() in (word.key.lower(), word.value.family.snake)


class _Press:
    """Makes modules of one pattern into one change set; what all of them need is worked out once."""

    def __init__(self, opened: OpenHost, pattern: Pattern, variant: Variant, folder: str, changes: ChangeSet) -> None:
        self.opened, self.pattern, self.variant, self.changes = opened, pattern, variant, changes
        self.joined = "-" if opened.kit.data.facts.naming.spelling == "kebab" else "_"
        self.place = _place(opened, pattern, folder)
        self.texts: dict[str, bytes] = {}  # files elsewhere that get lines, as they stand with those so far
        self.folders: dict[str, str] = {}

    def moved(self, path: str) -> str:
        """Return a path of the pattern where its modules lie in this host."""
        return self.pattern.facts.moved(path, self.place)

    def module(self, given: Given) -> FromPattern:
        """Add one module to the change set."""
        host = self.opened.host
        values = values_of(self.pattern, given)
        family = values[self.pattern.facts.module].family
        host.check_name(family)
        filling = self.pattern.filling(values, self.joined)
        files = with_catalogues(self.pattern.filled(filling, self.variant))
        folder = self.moved(Template(self.pattern.facts.folder).filled(filling))
        if folder in self.folders:
            raise WrongUse(
                "name-twice", f"{given.name!r} and {self.folders[folder]!r} are both {folder}.", "Rename one."
            )
        self.folders[folder] = given.name
        label = folder.rpartition("/")[2].partition(".")[0]
        at = Template(self.pattern.facts.address).filled(filling)
        done = FromPattern(self.pattern.name, label, family.title, folder, self.changes, at)
        made = {self.moved(path): one for path, one in files.items()}
        self._write(made, folder)
        self._keep_origin(folder, values, made)
        self._enter(filling, done)
        return done

    def _write(self, files: Mapping[str, Filled], folder: str) -> None:
        root = self.opened.host.root
        for path in {folder: None} | dict.fromkeys(files):
            if (root / path).exists() or (root / path).is_symlink():
                raise Refused("in-the-way", f"{path} exists already; nothing was made.", "Choose another name.")
        for path, one in files.items():
            self.changes.add(path, None, one.content)

    def _keep_origin(self, folder: str, values: Mapping[Word, Value], files: Mapping[str, Filled]) -> None:
        if not any(path.startswith(f"{folder}/") for path in files):
            return  # a module of one file alone has no room for it
        contents = {path: one.content for path, one in files.items()}
        pattern = self.pattern
        origin = Origin.of(pattern.name, self.variant.name, pattern.state, self.place, values, contents)
        self.changes.add(f"{folder}/{ORIGIN_FILE}", None, origin.content())

    def _enter(self, filling: Filling, done: FromPattern) -> None:
        """Put the module's lines into the lists of the host."""
        for entry in self.pattern.facts.entries:
            path = self.opened.host.root / entry.file
            line = Template(entry.line).filled(filling).strip()
            if not path.is_file() or path.is_symlink():
                done.by_hand.append((entry.file, line))
                continue
            before = path.read_bytes() if entry.file not in self.texts else self.texts[entry.file]
            text = before.decode("utf-8", "surrogateescape")
            after = with_entry(entry.file, text, entry.line, filling)
            if after is None:
                done.by_hand.append((entry.file, line))
                continue
            content = after.encode("utf-8", "surrogateescape")
            self.changes.add(entry.file, before, content)
            self.texts[entry.file] = content


def _place(opened: OpenHost, pattern: Pattern, wanted: str) -> str:
    """Return the folder for a pattern's new modules: as wanted, else the pattern's own where this host has it."""
    old = pattern.facts.folder.rpartition("/")[0]
    places = [place.folder.strip("/") for place in opened.host.module_folders()]
    plain = [("" if one == "." else one) for one in places]
    if wanted:
        name = wanted.strip("/").removeprefix("./")
        name = "" if name == "." else name
        if name not in plain:
            raise WrongUse(
                "place-unknown", f"--in {wanted}: the host looks for no modules there.", did_you_mean(name, plain)
            )
        return name
    there = old in plain or (opened.host.root / old).is_dir()
    return old if there or not plain else plain[0]
