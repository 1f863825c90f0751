"""Where the words of a module stand in its files, for a pattern to be made of it.

The module's name is found as ``rename`` finds it. Records are named by common words more often than not: within the
module's own files every spelling counts, but for words that the host's own code has too: ``order_by`` holds no order,
and where the host knows ``page`` a record Page is only surely meant by its class.
"""

from __future__ import annotations

import os
import re
from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from ...core.patterns.marks import Span, marked, renaming_of
from ...core.patterns.prose import Written, way_of
from ...core.patterns.words import Word, WordKind
from ...core.renaming.occurrences import occurrences
from ...core.renaming.spellings import Renaming
from ...disk.walking import written_files
from ..modulefiles import ModuleOnDisk
from ..naming import family_of, in_other_modules, is_in, means_module, other_families, registering_lines
from .store import joined_after

_IDENTIFIER = re.compile(r"[A-Za-z_][A-Za-z0-9_]*")
_VALUE = re.compile(r"\s*[\"']?\w+[\"']?\s*[=:][^=]")
_CLASS = re.compile(r"\bclass\s+([A-Z]\w*)")


class Found(NamedTuple):
    """The words of one file: where each stands, and the places that were left, as line and text."""

    spans: list[Span]
    doubtful: list[tuple[int, str]]


class WordFinder:
    """Finds the words of a module.

    words         -- what varies; the module's own name first
    take_doubtful -- take what may be a common word as well
    texts         -- the module's files by path below the host's root
    """

    def __init__(
        self, module: ModuleOnDisk, words: Sequence[Word], take_doubtful: bool, texts: Mapping[str, str]
    ) -> None:
        self._module = module
        self._take_doubtful = take_doubtful
        self._registers = registering_lines(module)
        family = family_of(module)
        others = other_families(module)
        names = [word for word in words if word.kind in (WordKind.RECORD, WordKind.WORD)]
        own = words[0]
        self._own = Renaming(family, family, [*others, *(word.value.family for word in names)])
        self._means_module = means_module(module, family)
        names.sort(key=lambda word: -len(word.value.family.words))
        held = [Word(WordKind.MODULE, own.value._replace(family=one)) for one in others]
        self._names = [(word, renaming_of(word, word.value, [own, *names, *held])) for word in names]
        self._texts = [(word.value.title, word.key) for word in words if word.has_own_title]
        self._joined = joined_after(module.opened, r"\w+")
        self._classes = {name for text in texts.values() for name in _CLASS.findall(text)}
        self.times: Counter[str] = Counter()
        self.hosts_words = self._of_the_host(texts)

    def find(self, path: str, text: str) -> Found:
        """Return where the words stand in a file."""
        found = Found([], [])
        self._find_module(path, text, found)
        for literal, key in self._texts:
            for one in re.finditer(rf"(?<!\w){re.escape(literal)}(?!\w)", text):
                self._take(found.spans, Span(one.start(), one.end()), key)
        for word, renaming in self._names:
            for spelling in renaming.find(text):
                span = Span(spelling.start, spelling.end)
                if self._take_doubtful or self._is_own(text, span) or self._names_record(text, span):
                    self._take(found.spans, span, word.key)
                elif len(_identifier_at(text, span.start)) == len(spelling.before):
                    found.doubtful.append((text.count("\n", 0, span.start) + 1, spelling.before))
        return found

    def _find_module(self, path: str, text: str, found: Found) -> None:
        inside = is_in(path, self._module.folder)
        lines = self._registers.get(path, frozenset())
        for one in occurrences(path, text, self._own, inside, lines, self._means_module):
            span = Span(one.start, one.start + len(one.before))
            sure = not one.doubtful or self._take_doubtful
            if sure or (inside and self._own.single and self._is_module(path, text, span)):
                self._take(found.spans, span, WordKind.MODULE.value)
            else:
                found.doubtful.append((one.line, one.before))

    def _is_own(self, text: str, span: Span) -> bool:
        """True within an identifier that the host's own code does not have."""
        return _identifier_at(text, span.start) not in self.hosts_words

    def _is_module(self, path: str, text: str, span: Span) -> bool:
        """True for a single word in the module's own files that a reader would take for the module's name."""
        word = text[span.start : span.end]
        in_code = not word.islower() or way_of(text, span.start, span.end, path) is Written.CODE
        return self._is_own(text, span) and (in_code or len(_identifier_at(text, span.start)) > len(word))

    def _names_record(self, text: str, span: Span) -> bool:
        """True for a word of the host's that is the record's here: where its class is made, and where that is named."""
        word = text[span.start : span.end]
        if len(_identifier_at(text, span.start)) > len(word):
            return False
        before = text[text.rfind("\n", 0, span.start) + 1 : span.start]
        joined = self._joined is not None and self._joined.search(before) is not None
        return joined or word in self._classes

    def in_path(self, path: str) -> str:
        """Return a path with marks in the names of its folders and of the file.

        Elsewhere than in the module's folder a single word must be all of a name.
        """
        parts = path.split("/")
        inside = is_in(path, self._module.folder)
        begins = self._module.folder.count("/") if inside else 0
        above = ["/".join([*parts[:number], ""]) for number in range(len(parts))]
        return "/".join(
            part if number < begins else marked(part, self._in_name(part, inside, above[number]))
            for number, part in enumerate(parts)
        )

    def _in_name(self, part: str, inside: bool, above: str = "") -> list[Span]:
        """Return where words stand in a name of a path; ``above`` is what stands before it, as texts refer to it."""
        stem = part.partition(".")[0]
        taken = [
            Span(one.start, one.end)
            for one in self._own.find(part)
            if inside or not self._own.single or one.before == stem
        ]
        for word, renaming in self._names:
            for one in renaming.find(part):
                span = Span(one.start, one.end)
                named = self._names_record(above + part, Span(len(above) + one.start, len(above) + one.end))
                if self._take_doubtful or self._is_own(part, span) or named:
                    self._take(taken, span, word.key)
        return taken

    def in_address(self, address: str) -> str:
        """Return an address with marks."""
        return "/".join(marked(part, self._in_name(part, inside=True)) for part in address.split("/"))

    def own_values(self, text: str) -> Iterator[tuple[int, str]]:
        """Yield the lines of a file of the host that give a value to an identifier with the module's name: settings."""
        for found in self._own.find(text):
            begins = text.rfind("\n", 0, found.start) + 1
            line = text[begins:].partition("\n")[0]
            if _VALUE.match(line) and not line[: found.start - begins].strip(" \t\"'"):
                yield text.count("\n", 0, begins) + 1, line

    def in_entry(self, line: str) -> str:
        """Return a line that registers the module, with marks."""
        return marked(line, [Span(one.start, one.end) for one in self._own.find(line)])

    def _take(self, taken: list[Span], span: Span, key: str) -> None:
        if all(span.end <= one.start or span.start >= one.end for one in taken):
            taken.append(span)
            self.times[key] += 1

    def _of_the_host(self, texts: Mapping[str, str]) -> frozenset[str]:
        """Return the identifiers with a word in them that the host's own code has as well."""
        wanted: set[str] = set()
        renamings = [renaming for _, renaming in self._names]
        if self._own.single:
            renamings.append(self._own)
        for text in texts.values():
            for renaming in renamings:
                for spelling in renaming.find(text):
                    wanted.add(_identifier_at(text, spelling.start))
        opened = self._module.opened
        found = set(_found_in(opened.host.own_code(), opened.kit.data.facts.sources.code, wanted))
        return frozenset(found | self._settings_of_others(wanted))

    def _settings_of_others(self, wanted: Collection[str]) -> set[str]:
        """Return those of some identifiers that are constants of the host's: settings without the module's name."""
        constants = {one for one in wanted if one.isupper() and next(self._own.find(one), None) is None}
        if not constants:
            return set()
        opened = self._module.opened
        is_others = in_other_modules(self._module)
        skipped, endings = opened.kit.data.facts.sources.skipped, opened.kit.data.facts.sources.code
        found: set[str] = set()
        for file in written_files(opened.host.root, skipped):
            own = is_in(file.path, self._module.folder) or is_others(file.path)
            if file.path.endswith(endings) and not own:
                found |= constants & set(_IDENTIFIER.findall(file.read().decode("utf-8", "replace")))
        return found


def _identifier_at(text: str, start: int) -> str:
    """Return the whole identifier that holds a place."""
    begin = start
    while begin and (text[begin - 1].isalnum() or text[begin - 1] == "_"):
        begin -= 1
    found = _IDENTIFIER.match(text, begin)
    return found.group() if found is not None else ""


def _found_in(folders: Iterable[Path], endings: tuple[str, ...], wanted: Collection[str]) -> Iterator[str]:
    """Yield those of some identifiers that stand in the sources of some folders; stops once all are found."""
    left = set(wanted)
    for path in _sources(folders, endings):
        if not left:
            return
        content = path.read_bytes()
        for word in [word for word in left if word.encode() in content]:
            if re.search(rf"(?<![A-Za-z0-9_]){re.escape(word)}(?![A-Za-z0-9_])".encode(), content):
                left.discard(word)
                yield word


def _sources(folders: Iterable[Path], endings: tuple[str, ...]) -> Iterator[Path]:
    for folder in folders:
        for where, inner, names in os.walk(folder):
            inner.sort()
            yield from (Path(where) / name for name in sorted(names) if name.endswith(endings))
