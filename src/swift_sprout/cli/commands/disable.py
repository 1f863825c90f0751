"""``swift-sprout disable``."""

from __future__ import annotations

import argparse

from ...actions.hosting import open_host
from ...actions.switching import disable
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output
from .enable import switched_document

EXAMPLE = "example:\n  swift-sprout disable tide_board --preview"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    shared.runs_host(parser)
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    done = disable(opened, options.module, options.preview)
    if output.wants_json(options):
        output.document(switched_document("swift-sprout/disable/1", opened, done, options.preview))
        return 0
    out = output.terminal(options)
    out.line(f"{'Would disable' if options.preview else 'Disabled'} {out.style(done.module, 'strong')}:")
    changes_text.changes(out, done.changes, with_diff=not out.short)
    if not options.preview:
        changes_text.steps(out, done.steps)
    for sentence in [*(f"would {turn}" for turn in done.turns if options.preview), *done.already, *done.stays]:
        out.line(f"  – {sentence}")
    if not out.short and done.changes:
        out.line("  – its files stay")
        changes_text.refreshes(out, opened.refreshes(done.changes))
    return 0
