"""``new --pattern``: what is asked, made and printed where modules are made from a pattern."""

from __future__ import annotations

import argparse
import time
from pathlib import Path

from ..actions.hosting import OpenHost
from ..actions.patterns.listing import given_in
from ..actions.patterns.making import Given, make_from, missing
from ..actions.patterns.store import read_pattern
from ..core.errors import HostFailed, WrongUse
from ..core.names import name_family
from ..core.patterns.pattern import Pattern
from ..core.patterns.results import Batch
from ..core.patterns.words import WordKind, value_of
from ..core.plurals import number_of
from ..core.results import CheckResult
from ..reports import documents
from ..reports.text import changes as changes_text
from ..reports.text import check as check_text
from . import options as shared
from . import output, prompts

#  options of ``new`` that say what a brief would: the pattern says it
_OF_BRIEFS = ("owner", "summary", "version", "group", "licence", "needs", "page", "no_page", "brief", "like")
NEXT = 5  # modules whose next commands are printed


def from_pattern(opened: OpenHost, options: argparse.Namespace) -> int:
    """Make modules from a pattern as the options of ``new`` say, and print what was made."""
    _refuse_others(options)
    pattern = read_pattern(opened, options.pattern)
    given = given_in(Path(options.rows), options.rows, pattern) if options.rows else [_complete(pattern, options)]
    batch = make_from(opened, pattern.name, given, options.variant, options.place, options.preview)
    checked = options.rows and not options.preview and not options.no_check
    result = _proven(opened, batch) if checked else None
    if output.wants_json(options):
        output.document(_document(batch, pattern.name, not options.preview, result))
    else:
        _text(batch, options, result)
    return output.check_status(result) if result is not None else 0


def _refuse_others(options: argparse.Namespace) -> None:
    given = [name for name in _OF_BRIEFS if getattr(options, name)]
    if given:
        option = f"--{given[0].replace('_', '-')}"
        raise WrongUse(
            "pattern-alone", f"{option} does not go with --pattern, which says that itself.", f"Leave {option} out."
        )
    if options.doubtful != "leave":
        raise WrongUse("doubtful-alone", "--doubtful goes with --like alone.", "Leave it out.")
    alone = [name for name in ("name", "internal", "record", "word", "author") if getattr(options, name)]
    if options.rows and alone:
        raise WrongUse("rows-alone", f"With --from the list says the {alone[0]} of each module.", "Put it there.")


def _complete(pattern: Pattern, options: argparse.Namespace) -> Given:
    """Return what was given; on a terminal what is missing is asked for."""
    words = shared.named_words(options.word)
    given = Given(options.name, options.internal, tuple(options.record), words, options.author)
    lacking = missing(pattern, given)
    if given.name and not lacking:
        return given
    if not prompts.can_ask():
        needed = {} if given.name else {"NAME": "the module's name"}
        for word in lacking:
            option = "--record" if word.kind is WordKind.RECORD else f"--word {word.key}="
            needed[f"{option} (in the place of {word.key})"] = f"a {word.kind.value}'s name"
        raise prompts.missing(f"swift-sprout new --pattern {pattern.name}", needed)
    name = given.name or prompts.ask("Name of the module", check=name_family)
    asked = dict(words)
    for word in lacking:
        what = "Record" if word.kind is WordKind.RECORD else "Name"
        kind = word.kind
        asked[word.key] = prompts.ask(
            f"{what} in the place of {word.key} (irregular plural: Foot / Feet)",
            check=lambda text, kind=kind: value_of(kind, text),  # type: ignore[misc]
        )
    return given._replace(name=name, others=asked)


def _proven(opened: OpenHost, batch: Batch) -> CheckResult:
    """Check the modules in one start of a copy in which they are enabled; from their files where nothing runs it."""
    from ..actions.checking import check
    from ..actions.sandboxing import copy_of, enabled_and_checked, told

    names = [one.module for one in batch.modules]
    try:
        opened.host.need_runtime()
        runs = opened.host.registers
    except HostFailed:
        runs = False
    if not runs:
        return check(opened, names, static=True)
    began = time.monotonic()
    with copy_of(opened) as copy:
        setup = enabled_and_checked(copy, names, {one.module: one.address for one in batch.modules if one.address})
    return told(opened, [setup], names, began)


def _next(batch: Batch) -> list[str]:
    steps = []
    for made in batch.modules[:NEXT] if batch.registers else ():
        at = f" --at {made.address}" if made.address else ""
        steps.append(f"swift-sprout enable {made.module}{at}")
    made_names = [made.module for made in batch.modules]
    return [*steps, f"swift-sprout check {' '.join(made_names[:NEXT])}"]


def _document(batch: Batch, pattern: str, written: bool, result: CheckResult | None) -> dict[str, object]:
    return {
        "format": "swift-sprout/new-from-pattern/1",
        "pattern": pattern,
        "written": written,
        "modules": [
            {
                "module": one.module,
                "title": one.title,
                "folder": one.folder,
                "address": one.address,
                "by_hand": [{"file": file, "line": line} for file, line in one.by_hand],
            }
            for one in batch.modules
        ],
        "files": documents.changes(batch.changes),
        "check": documents.check(result) if result is not None else None,
    }


def _text(batch: Batch, options: argparse.Namespace, result: CheckResult | None) -> None:
    out = output.terminal(options)
    verb = "Would make" if options.preview else "Made"
    for one in batch.modules:
        count = sum(change.path.startswith(f"{one.folder}/") for change in batch.changes.changes)
        files = f" in {one.folder}/, {number_of(count, 'file')}" if count else f" as {one.folder}"
        out.line(f"{verb} {out.style(one.title, 'strong')} from {one.pattern}{files}")
        for file, line in one.by_hand:
            out.wrapped(f"– no line like it stands in {file}, so that it belongs there by hand: {line}", "    ", "  ")
    if len(batch.modules) == 1 and not out.short:
        changes_text.changes(out, batch.changes, with_diff=options.preview or options.verbose)
    if result is not None:
        out.line()
        check_text.check(out, result, evidence=options.verbose)
    if not options.preview and not out.short:
        changes_text.next_steps(out, _next(batch))
