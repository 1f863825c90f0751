"""``swift-sprout content``."""

from __future__ import annotations

import argparse

from ...actions.contents import put, take
from ...actions.hosting import open_host
from ...core.contents import PutContent
from ...core.plurals import number_of
from ...reports import documents
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output

EXAMPLE = """examples:
  swift-sprout content take tide_pages
  swift-sprout content put tide_pages --preview

What is taken is text in the module's folder content/, known by names and not by numbers: it can be kept with the
code, and put into another database, where it is the same. Putting it twice changes nothing."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("action", choices=("take", "put"), help="take it out of the database, or put it into one")
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    shared.runs_host(parser)
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    if options.action == "take":
        taken = take(opened, options.module, options.preview)
        if output.wants_json(options):
            files = documents.changes(taken.changes)
            output.document(
                {
                    "format": "swift-sprout/content-take/1",
                    "module": taken.module,
                    "items": taken.counts,
                    "files": files,
                    "preview": options.preview,
                }
            )
            return 0
        out = output.terminal(options)
        total = sum(taken.counts.values())
        verb = "Would take" if options.preview else "Took"
        items = number_of(total, "item")
        if not total and not taken.changes.changes:
            out.line(f"{taken.module} has no items in the database; nothing was changed.")
            return 0
        out.line(f"{verb} {items} of {taken.module} into {out.path(taken.folder)}/:")
        for kind, count in sorted(taken.counts.items()):
            out.line(f"  {count:>5}  {kind}")
        if not taken.changes.changes:
            out.line("Already up to date; nothing was changed.")
        elif not options.short:
            changes_text.changes(out, taken.changes, with_diff=options.preview)
        return 0
    module, done = put(opened, options.module, options.preview)
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/content-put/1",
                "module": module,
                "items": done.counts,
                "open": done.open,
                "preview": options.preview,
            }
        )
        return _status(done)
    out = output.terminal(options)
    out.line(f"{'Would put' if options.preview else 'Put'} the content of {module}:")
    for kind, counts in sorted(done.counts.items()):
        told = ", ".join(f"{count} {what}" for what, count in counts.items() if count)
        out.line(f"  {kind}: {told or 'nothing'}")
    for text in done.open:
        out.wrapped(f"left open: {text}", "    ", "  ! ")
    if not options.preview and not out.short:
        out.line("It stands in the database: undo does not take it back.")
    return _status(done)


def _status(done: PutContent) -> int:
    if done.open:
        output.because(f"{len(done.open)} of the items wait for something that is not there")
    return 1 if done.open else 0
