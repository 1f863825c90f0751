"""``pattern take``: a pattern made of a finished module, with marks where its words stand."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path, PurePosixPath
from typing import NamedTuple

from ...core.brief import Brief
from ...core.changes import ChangeSet
from ...core.errors import Refused, WrongUse
from ...core.made import MADE_FILE
from ...core.masking import masked
from ...core.names import NameFamily
from ...core.nearest import did_you_mean
from ...core.patterns import FOLDER
from ...core.patterns.entries import stands_alone
from ...core.patterns.facts import FACTS_FILE, Entry, Facts
from ...core.patterns.marks import CLOSES, OPENS, Filling, Template, marked
from ...core.patterns.origin import ORIGIN_FILE
from ...core.patterns.pattern import ENDING, FILES, Pattern
from ...core.patterns.results import Taken
from ...core.patterns.words import Value, Word, WordKind, is_plain, value_of
from ...core.renaming.contents import LARGEST_BYTES, is_text
from ...core.renaming.occurrences import in_path
from ...core.renaming.spellings import Renaming
from ...disk.walking import MADE_BY_PROGRAMS, NOT_WRITTEN, written_files
from ...hosts.plain.reading import listings
from ..hosting import OpenHost, carried_out
from ..modulefiles import ModuleOnDisk
from ..naming import family_of, files_of, in_other_modules, is_in, other_families, registering_lines
from .finding import Found, WordFinder
from .store import checked_name, is_compiled, names

_OF_SETTINGS = (".toml", ".cfg", ".ini", ".conf", ".yaml", ".yml", ".json")  # beside code
_OF_ONE_MACHINE = (".env", "local_settings", "settings_local")  # files that are kept out of version control


class Wanted(NamedTuple):
    """What the options of ``pattern take`` say.

    varies -- further names that vary, each with its plural behind a slash where that is not by rule
    fixed  -- records whose names stay as they are
    author -- a person's name that varies
    """

    varies: tuple[str, ...] = ()
    fixed: tuple[str, ...] = ()
    author: str = ""
    summary: str = ""
    take_doubtful: bool = False


def take(opened: OpenHost, name: str, pattern: str, wanted: Wanted, preview: bool) -> Taken:
    """Make a pattern of a module; raises WrongUse for words that cannot be, Refused where one has that name already."""
    checked_name(pattern)
    return carried_out(opened, f"pattern take {name}", lambda: _planned(opened, name, pattern, wanted), preview)


def _planned(opened: OpenHost, name: str, pattern: str, wanted: Wanted) -> Taken:
    if pattern in names(opened.host.root):
        raise Refused(
            "pattern-there",
            f"There is a pattern {pattern} already; nothing was changed.",
            f"Choose another name, or take it away first: swift-sprout pattern drop {pattern}",
        )
    module = ModuleOnDisk(opened, name)
    words = _words(module, wanted)
    own = words[0].value.family
    path_renaming = Renaming(own, own, other_families(module))
    is_others = in_other_modules(module)
    held = {
        file.path: opened.host.for_copy(file.path, file.read())
        for file in files_of(opened, module.folder)
        if _belongs(file.path, module, path_renaming) and not is_others(file.path)
    }
    texts = {path: _text(content) for path, content in held.items() if is_text(content)}
    finder = WordFinder(module, words, wanted.take_doubtful, texts)
    files: dict[str, bytes] = {}
    own_words = Filling(words, {word: word.value for word in words})
    done = Taken(module.name, Pattern(pattern, Facts("", "", tuple(words)), {}), f"{FOLDER}/{pattern}", ChangeSet(""))
    for path, content in held.items():
        target = finder.in_path(path)
        if path not in texts:
            files[target] = content
            if not is_compiled(path, held):
                done.as_is.append(path)
            continue
        found = _that_come_back(finder.find(path, texts[path]), path, texts[path], own_words)
        done.doubtful += [(path, line, text) for line, text in found.doubtful]
        files[target] = marked(texts[path], found.spans).encode("utf-8", "surrogateescape")
    facts = Facts(
        finder.in_path(module.folder),
        opened.kit.data.id,
        tuple(words),
        wanted.summary or f"Made from {module.name}",
        f"/{OPENS}{own.kebab}{CLOSES}" if _would_meet(module, finder) else "",
        tuple(_entries(module, finder)),
    )
    done.pattern = Pattern(pattern, facts, files)
    done.times = dict(finder.times)
    done.hosts = sorted(finder.hosts_words)
    _prove(done.pattern, held)
    done.changes = ChangeSet(f"pattern take {module.name} as {pattern}")
    done.changes.add(f"{done.folder}/{FACTS_FILE}", None, facts.content())
    for path, content in files.items():
        done.changes.add(f"{done.folder}/{FILES}/{path}{ENDING}", None, content)
    return done


def _would_meet(module: ModuleOnDisk, finder: WordFinder) -> bool:
    """True where another module of the pattern would have one of its addresses: no word of it stands there."""
    if not module.opened.host.takes_address:
        return False
    return any(OPENS not in finder.in_address(address) for address in module.opened.host.addresses(module.name))


def _words(module: ModuleOnDisk, wanted: Wanted) -> list[Word]:
    """Return what varies: the module's name, its records but for those that stay, what was named, the author."""
    opened = module.opened
    brief = module.brief or opened.host.read_brief(module.name).brief
    family = family_of(module)
    if family.title == module.name.rpartition(".")[2]:  # it says no title
        family = family._replace(title=" ".join(family.words).capitalize())
    words = [Word(WordKind.MODULE, Value(family))]
    words += [Word(WordKind.RECORD, value) for value in _records(brief, wanted)]
    words += [Word(WordKind.WORD, value_of(WordKind.WORD, text)) for text in wanted.varies]
    if wanted.author:
        words.append(Word(WordKind.TEXT, value_of(WordKind.TEXT, wanted.author)))
    elif brief.author and is_plain(brief.author):
        words.append(Word(WordKind.TEXT, value_of(WordKind.TEXT, brief.author)))
    return words


def _records(brief: Brief, wanted: Wanted) -> Iterable[Value]:
    families = [one.name for one in brief.records] + [one.name for one in brief.page_types]
    plurals = {one.name.words: one.plural.words for one in brief.records}
    named = {value.family.words: value for value in (value_of(WordKind.RECORD, text) for text in wanted.varies)}
    known = [family.title for family in families]
    for text in wanted.fixed:
        if not any(_same(family, text) for family in families):
            raise WrongUse("record-unknown", f"The module has no record {text!r}.", did_you_mean(text, known))
    for family in families:
        if family.words not in named and not any(_same(family, text) for text in wanted.fixed):
            singular = family.singular
            plural = plurals.get(family.words, family.plural.words)
            in_one_word = plural[:-1] == singular.words[:-1]  # else people read a plural that code does not have
            yield Value(singular, plural[-1] if in_one_word else family.plural.words[-1])


def _same(family: NameFamily, text: str) -> bool:
    return text.lower() in (family.title.lower(), family.snake, family.camel.lower())


def _belongs(path: str, module: ModuleOnDisk, renaming: Renaming) -> bool:
    """True for a file of the module: in its folder, or elsewhere under its name; history, caches and data are not."""
    if path.endswith((*MADE_BY_PROGRAMS, f"/{MADE_FILE}", f"/{ORIGIN_FILE}")):
        return False
    if NOT_WRITTEN & set(path.split("/")) or PurePosixPath(path).name.startswith(_OF_ONE_MACHINE):
        return False
    return is_in(path, module.folder) or in_path(path, renaming) != path or _named(path, renaming)


def _named(path: str, renaming: Renaming) -> bool:
    """True where a folder or file of a path is the module's name; a single word must be all of it."""
    parts = [part.partition(".")[0] for part in path.split("/")]
    return any((not renaming.single or one.before == part) for part in parts for one in renaming.find(part))


def _text(content: bytes) -> str:
    return content.decode("utf-8", "surrogateescape")


def _that_come_back(found: Found, path: str, text: str, own_words: Filling) -> Found:
    """Leave out the places in which the module's own words would not stand again as they do."""
    spans = sorted(found.spans)
    lost = {spans[number] for number in Template(marked(text, spans), path).changed_by(own_words)}
    doubtful = [(text.count("\n", 0, span.start) + 1, text[span.start : span.end]) for span in sorted(lost)]
    return Found([span for span in spans if span not in lost], [*found.doubtful, *doubtful])


def _entries(module: ModuleOnDisk, finder: WordFinder) -> list[Entry]:
    """Return the module's lines elsewhere: in lists that name its siblings too, and values under its own name.

    Those that ``enable`` writes are not among them. Any other line that only this module has may be anything: it is no
    part of the pattern. Nor is a secret, which is no text to keep beside code.
    """
    opened = module.opened
    registering = registering_lines(module) if opened.host.registers else {}
    labels = [one.name.rpartition(".")[2] for one in opened.host.modules()]
    label = module.name.rpartition(".")[2]
    folder = module.folder.rpartition("/")[0] or "."
    files = list(written_files(opened.host.root, opened.kit.data.facts.sources.skipped))
    lines: dict[tuple[str, int], str] = {}
    for listing in listings(folder, labels, files):
        if label in listing.entries:
            entry = listing.entries[label]
            lines[entry.path, entry.line] = _lines(opened.host.root / entry.path)[entry.line - 1]
    endings = (*opened.kit.data.facts.sources.code, *_OF_SETTINGS)
    is_others = in_other_modules(module)
    for file in files:
        is_local = PurePosixPath(file.path).name.startswith(_OF_ONE_MACHINE)
        if file.path.endswith(endings) and not is_local and file.size < LARGEST_BYTES:
            if is_in(file.path, module.folder) or is_others(file.path):
                continue
            lines |= {(file.path, number): line for number, line in finder.own_values(_text(file.read()))}
    return [
        Entry(path, finder.in_entry(line))
        for (path, number), line in sorted(lines.items())
        if number not in registering.get(path, ()) and masked(line) == line and stands_alone(line)
    ]


def _lines(path: Path) -> list[str]:
    return path.read_text("utf-8", "surrogateescape").splitlines()


def _prove(pattern: Pattern, held: dict[str, bytes]) -> None:
    """Fill the pattern in with its own words: that must give the module again, byte for byte."""
    values = {word: word.value for word in pattern.facts.words}
    again = pattern.filled(Filling(pattern.facts.words, values), pattern.facts.variant(""))
    differ = sorted(
        path
        for path in {*again, *held}
        if not is_compiled(path, held) and (path not in again or again[path].content != held.get(path))
    )
    if differ:
        raise Refused(
            "pattern-unproven",
            f"Filled in with its own words the pattern does not give {differ[0]} again; nothing was changed.",
            "Report this file; --fixed leaves a record's name out of the pattern.",
        )
