"""``swift-sprout pattern``."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from typing import TYPE_CHECKING

from ...actions.hosting import OpenHost, open_host
from ...core.errors import WrongUse
from ...core.nearest import did_you_mean
from ...core.plurals import number_of
from ...reports import documents
from ...reports.text import changes as changes_text
from ...reports.text import patterns as text
from .. import options as shared
from .. import output

if TYPE_CHECKING:
    from ...core.patterns.results import Kept

EXAMPLE = """examples:
  swift-sprout pattern take berth_register --as record-with-pages
  swift-sprout pattern take berth_register --as yard --varies "Harbour office" --fixed Booking
  swift-sprout pattern try record-with-pages
  swift-sprout pattern where mooring_list/views.py:14
  swift-sprout new "Mooring list" --pattern record-with-pages --record Mooring --record "Foot / Feet"

actions:
  take MODULE --as NAME   make a pattern from a finished module
  list                    the patterns of this host, and the modules made from each
  show NAME               its words, files, variants and modules
  try NAME                make a module with irregular words in a copy of the host, and check it there
  where FILE:LINE         the line of the pattern that made a line of a module
  drop NAME               take a pattern away; modules made from it stay

A pattern lies in sprout-patterns/NAME: pattern.toml says which words vary, files/ holds the module with marks such as
⟦tide_board⟧ where they stand. Edit both freely."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("action", metavar="ACTION", help=f"one of: {', '.join(ACTIONS)}")
    parser.add_argument(
        "what", metavar="MODULE|NAME", nargs="?", default="", help="the module, the pattern's name, or FILE:LINE"
    )
    take = parser.add_argument_group("for take")
    take.add_argument("--as", dest="named", metavar="NAME", default="", help="the pattern's name")
    take.add_argument(
        "--varies", metavar="NAME", action="append", default=[], help='one more name that varies; also: "Foot / Feet"'
    )
    take.add_argument("--fixed", metavar="RECORD", action="append", default=[], help="a record that keeps its name")
    take.add_argument("--author", default="", help="the author that the files name, where it varies")
    take.add_argument("--summary", default="", help="one sentence on what the pattern is for")
    shared.doubtful(parser, "for take: ")
    parser.add_argument("--variant", metavar="NAME", default="", help="for try: the variant of the pattern")
    shared.runs_host(parser)
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    if options.action not in ACTIONS:
        sentence = f"There is no action {options.action!r}."
        raise WrongUse("pattern-action", sentence, did_you_mean(options.action, ACTIONS))
    if options.action != "list" and not options.what:
        needs = {"take": "MODULE --as NAME", "where": "FILE:LINE"}.get(options.action, "NAME")
        raise WrongUse(
            "pattern-what",
            f"pattern {options.action} needs one more word.",
            f"Write: swift-sprout pattern {options.action} {needs}",
        )
    return ACTIONS[options.action](open_host(shared.host_choice(options)), options)


def _take(opened: OpenHost, options: argparse.Namespace) -> int:
    from ...actions.patterns.taking import Wanted, take

    if not options.named:
        remedy = f"Write: swift-sprout pattern take {options.what} --as NAME"
        raise WrongUse("pattern-unnamed", "A pattern needs a name.", remedy)
    wanted = Wanted(
        tuple(options.varies), tuple(options.fixed), options.author, options.summary, options.doubtful == "take"
    )
    done = take(opened, options.what, options.named, wanted, options.preview)
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/pattern-take/1",
                "module": done.module,
                "pattern": done.pattern.name,
                "folder": done.folder,
                "written": not options.preview,
                "words": text.words_data(done.pattern, done.times),
                "hosts_own": done.hosts,
                "doubtful": [{"path": path, "line": line, "text": held} for path, line, held in done.doubtful],
                "as_is": done.as_is,
                "files": documents.changes(done.changes),
            }
        )
        return 0
    out = output.terminal(options)
    text.taken(out, done, options.preview, options.verbose)
    if not options.preview and not out.short:
        name = done.pattern.name
        changes_text.next_steps(out, [f"swift-sprout pattern try {name}", text.new_command(done.pattern)])
    return 0


def _list(opened: OpenHost, options: argparse.Namespace) -> int:
    from ...actions.patterns.keeping import kept_patterns

    found = kept_patterns(opened)
    if output.wants_json(options):
        output.document({"format": "swift-sprout/pattern-list/1", "patterns": [_kept_data(one) for one in found]})
        return 0
    text.listed(output.terminal(options), found)
    return 0


def _show(opened: OpenHost, options: argparse.Namespace) -> int:
    from ...actions.patterns.keeping import kept_pattern

    kept = kept_pattern(opened, options.what)
    if output.wants_json(options):
        output.document({"format": "swift-sprout/pattern-show/1", **_kept_data(kept)})
        return 0
    text.shown(output.terminal(options), kept)
    return 0


def _kept_data(kept: Kept) -> dict[str, object]:
    pattern = kept.pattern
    return {
        "pattern": kept.name,
        "summary": pattern.facts.summary if pattern else "",
        "kit": pattern.facts.kit if pattern else "",
        "state": pattern.state if pattern else "",
        "words": text.words_data(pattern, {}) if pattern else [],
        "files": sorted(pattern.files) if pattern else [],
        "variants": [{"name": one.name, "without": list(one.without)} for one in pattern.facts.variants]
        if pattern
        else [],
        "modules": [{"module": one.module, "behind": one.behind} for one in kept.products],
        "wrong": kept.wrong.sentence if kept.wrong else "",
    }


def _drop(opened: OpenHost, options: argparse.Namespace) -> int:
    from ...actions.patterns.keeping import drop

    done = drop(opened, options.what, options.preview)
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/pattern-drop/1",
                "pattern": done.name,
                "written": not options.preview,
                "modules": [one.module for one in done.products],
                "files": documents.changes(done.changes),
            }
        )
        return 0
    out = output.terminal(options)
    verb = "Would take away" if options.preview else "Took away"
    out.line(f"{verb} {out.style(done.name, 'strong')}, {number_of(len(done.changes.changes), 'file')}.")
    if done.products:
        made = ", ".join(one.module for one in done.products)
        out.wrapped(f"The modules made from it stay as they are: {made}", "  ", "  ")
    return 0


def _try(opened: OpenHost, options: argparse.Namespace) -> int:
    from ...actions.patterns.trying import try_pattern

    done = try_pattern(opened, options.what, options.variant)
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/pattern-try/1",
                "pattern": done.pattern,
                "module": done.module.module,
                "check": documents.check(done.result),
                "own_tests": {"passed": done.tests.passed, "said": done.tests.said},
                "made_by": done.traced,
                "by_hand": [{"file": file, "line": line} for file, line in done.module.by_hand],
            }
        )
    else:
        text.tried(output.terminal(options), done, options.verbose)
    status = output.check_status(done.result)
    if done.tests.passed is False and not status:
        output.because("its own tests failed")
        return 1
    return status


def _where(opened: OpenHost, options: argparse.Namespace) -> int:
    from ...actions.patterns.locating import where

    found = where(opened, options.what)
    if output.wants_json(options):
        output.document({"format": "swift-sprout/pattern-where/1", **found._asdict()})
        return 0
    text.located(output.terminal(options), found)
    return 0


ACTIONS: dict[str, Callable[[OpenHost, argparse.Namespace], int]] = {
    "take": _take,
    "list": _list,
    "show": _show,
    "try": _try,
    "where": _where,
    "drop": _drop,
}
