"""Patterns as text: what was taken, which there are, how one did on trial, and which line made which."""

from __future__ import annotations

import shlex
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from ...core.patterns.words import WordKind
from ...core.plurals import number_of
from ..terminal import Terminal
from .check import check

if TYPE_CHECKING:
    from ...core.patterns.pattern import Pattern
    from ...core.patterns.results import Kept, Located, Taken, Tried

MANY = 12
_KINDS = {WordKind.MODULE: "module", WordKind.RECORD: "record", WordKind.WORD: "name", WordKind.TEXT: "author"}


def words_data(pattern: Pattern, times: Mapping[str, int]) -> list[dict[str, object]]:
    """Return the words of a pattern as plain data; ``times`` says how often each stands in its files."""
    return [
        {
            "word": word.key,
            "kind": _KINDS[word.kind],
            "stands_for": word.value.title,
            "plural": word.value.plural,
            "follows_module": pattern.facts.follows_module(word),
            "times": times.get(word.key, 0),
        }
        for word in pattern.facts.words
    ]


def new_command(pattern: Pattern) -> str:
    """Return the command that makes a module of a pattern, with a place for each name that it needs."""
    words = ["swift-sprout", "new", '"NAME"', "--pattern", pattern.name]
    for word in pattern.facts.asked:
        is_record = word.kind is WordKind.RECORD
        words += ["--record", '"NAME"'] if is_record else ["--word", shlex.quote(f"{word.key}=NAME")]
    return " ".join(words)


def taken(out: Terminal, done: Taken, preview: bool, verbose: bool) -> None:
    """Write what was taken of a module."""
    verb = "Would take" if preview else "Took"
    count = number_of(len(done.pattern.files), "file")
    out.line(f"{verb} {out.style(done.module, 'strong')} as the pattern {done.pattern.name}, {count}:")
    out.line(f"  {out.path(done.folder)}/")
    out.line()
    _words(out, done.pattern, done.times)
    for entry in done.pattern.facts.entries:
        out.wrapped(f"– its line in {entry.file} is part of it: {entry.line.strip()}", "    ", "  ")
    if done.hosts:
        shown = ", ".join(done.hosts[:8]) + (f" and {len(done.hosts) - 8} more" if len(done.hosts) > 8 else "")
        out.wrapped(f"– the host's own words were left: {shown}", "    ", "  ")
    if done.doubtful:
        places = len(done.doubtful)
        said = (
            "1 place may be a common word and stays" if places == 1 else f"{places} places may be common words and stay"
        )
        out.wrapped(f"– {said} as in the module (--doubtful take):", "    ", "  ")
        for path, line, held in done.doubtful[: places if verbose else MANY]:
            out.line(f"      {out.path(f'{path}:{line}')}  {held}")
        if places > MANY and not verbose:
            out.line(f"      and {places - MANY} more (--verbose)")
    for path in done.as_is:
        out.wrapped(f"– {path} is no text, or larger than 4 MB: it is part of the pattern as it is", "    ", "  ")


def _words(out: Terminal, pattern: Pattern, times: Mapping[str, int]) -> None:
    rows = []
    for word in pattern.facts.words:
        plural = word.value.plural_title if word.value.plural else ""
        note = "follows the module's name" if pattern.facts.follows_module(word) else plural
        rows.append([_KINDS[word.kind], word.value.title, note, *([str(times.get(word.key, 0))] * bool(times))])
    out.grid(["varies", "stands for", "plural", *(["places"] * bool(times))], rows)


def listed(out: Terminal, found: Sequence[Kept]) -> None:
    """Write the patterns of a host."""
    if not found:
        out.line("This host has no patterns. Take one: swift-sprout pattern take MODULE --as NAME")
        return
    for one in found:
        if one.pattern is None:
            out.line(f"{out.style(one.name, 'strong')}  cannot be used")
            out.wrapped(f"{one.wrong.sentence} {one.wrong.remedy}" if one.wrong else "", "  ", "  ")
            continue
        out.line(f"{out.style(one.name, 'strong')}  {one.pattern.facts.summary}")
        needs = ", ".join(word.key for word in one.pattern.facts.asked)
        out.wrapped(f"asks for: the module's name{f', {needs}' if needs else ''}", "    ", "  ")
        _products(out, one)


def _products(out: Terminal, kept: Kept) -> None:
    if kept.products:
        shown = ", ".join(f"{one.module} (behind)" if one.behind else one.module for one in kept.products)
        out.wrapped(f"made from it: {shown}", "    ", "  ")
    behind = [one.module for one in kept.products if one.behind]
    if behind:
        out.command(f"swift-sprout refresh {behind[0]} --pattern", "    ")


def shown(out: Terminal, kept: Kept) -> None:
    """Write one pattern: its words, files, variants and modules."""
    pattern = kept.pattern
    if pattern is None:
        return
    out.line(f"{out.style(kept.name, 'strong')}  {pattern.facts.summary}")
    out.line()
    _words(out, pattern, {})
    out.line()
    out.line(f"  {number_of(len(pattern.files), 'file')}:")
    for path in sorted(pattern.files):
        out.line(f"    {path}")
    for entry in pattern.facts.entries:
        out.wrapped(f"and a line in {entry.file}: {entry.line.strip()}", "    ", "  ")
    for variant in pattern.facts.variants:
        out.wrapped(f"variant {variant.name}: without {', '.join(variant.without)}", "    ", "  ")
    _products(out, kept)
    out.command(new_command(pattern), "  ")


def tried(out: Terminal, done: Tried, verbose: bool) -> None:
    """Write how a pattern did, with the place of the pattern behind each finding."""
    out.line(f"Made {out.style(done.module.module, 'strong')} from {done.pattern} in a copy of the host.")
    for file, line in done.module.by_hand:
        out.wrapped(f"– no line like it stands in {file}, so that it belongs there by hand: {line}", "    ", "  ")
    out.line()
    check(out, done.result, evidence=verbose)
    if done.tests.passed is None:
        out.wrapped(f"Its own tests were not run: {done.tests.said}.", "  ")
    elif done.tests.passed:
        out.line("Its own tests passed.")
    else:
        out.line(out.style("Its own tests failed:", "bad"))
        out.lines(f"    {line}" for line in done.tests.said.splitlines())
    for place, made_by in done.traced.items():
        out.wrapped(f"{place} was made by {made_by}", "    ", "  – ")


def located(out: Terminal, found: Located) -> None:
    """Write which line of a pattern made a line."""
    if found.made_line:
        out.line(f"{out.path(f'{found.file}:{found.line}')} was made by")
        out.line(f"{out.path(f'{found.made_of}:{found.made_line}')}")
        out.line(f"  {found.text}")
        return
    out.wrapped(f"{found.file}:{found.line} was written since; the file was made by {found.made_of}.", "  ")
    out.line(f"  {found.text}")
