"""``swift-sprout refresh``."""

from __future__ import annotations

import argparse

from ...actions.hosting import OpenHost, open_host
from ...actions.merging import Refreshed
from ...actions.patterns.refreshing import refresh_from_pattern
from ...actions.refreshing import refresh
from ...core.errors import WrongUse
from ...reports import documents
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output

EXAMPLE = """examples:
  swift-sprout refresh berth_register --preview
  swift-sprout refresh berth_register
  swift-sprout refresh mooring_list --pattern

What was generated last (sprout.made), what stands there, and what the brief would make now are merged. Where a person's
change meets one of the brief, both stand in the file between marks; the exit status is then 1."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    parser.add_argument("--pattern", action="store_true", help="bring it up to the pattern that made it")
    shared.words(parser)
    parser.add_argument("--runtime", "--python", metavar="PATH", help="the program that runs the host")
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    words = shared.named_words(options.word)
    if options.pattern:
        done = refresh_from_pattern(opened, options.module, words, options.preview)
    elif words:
        raise WrongUse("word-alone", "--word goes with --pattern alone.", "Leave it out.")
    else:
        done = refresh(opened, options.module, options.preview)
    made_from = "pattern" if options.pattern else "brief"
    verb = "Would refresh" if options.preview else "Refreshed"
    return tell(options, opened, done, verb, f"{done.module} is as its {made_from} says; nothing was changed.")


def tell(options: argparse.Namespace, opened: OpenHost, done: Refreshed, verb: str, unchanged: str) -> int:
    """Write what a refresh did, and return the exit status.

    verb -- what was done, before the module's name; unchanged -- the sentence for nothing done
    """
    status = 1 if done.conflicts else 0
    if status:
        output.because(f"conflicts to be decided by hand: {', '.join(done.conflicts)}")
    needed = opened.refreshes(done.changes)
    if output.wants_json(options):
        document = {
            "format": "swift-sprout/refresh/1",
            "module": done.module,
            "written": not options.preview and bool(done.changes),
            "files": documents.changes(done.changes),
            "conflicts": done.conflicts,
            "left": done.left,
            "steps": documents.steps(done.steps),
            "refresh": documents.refreshes(needed),
        }
        output.document(document)
        return status
    out = output.terminal(options)
    if not done.changes:
        out.line(unchanged)
    else:
        out.line(f"{verb} {out.style(done.module, 'strong')}:")
        changes_text.changes(out, done.changes, with_diff=options.preview or options.verbose)
    for sentence in done.left:
        out.wrapped(f"– {sentence}", "    ", "  ")
    changes_text.steps(out, done.steps)
    if done.conflicts:
        out.line()
        out.line(out.style("Conflicts, to be decided by hand:", "bad"))
        for place in done.conflicts:
            out.line(f"  {place}")
    if done.changes and not out.short:
        changes_text.refreshes(out, needed)
        if not options.preview:
            due = [f"swift-sprout settle {done.module}"] if any(one.kind == "migrate" for one in needed) else []
            changes_text.next_steps(out, [*due, f"swift-sprout check {done.module}"])
    return status
