"""``swift-sprout enable``."""

from __future__ import annotations

import argparse

from ...actions.hosting import OpenHost, open_host
from ...actions.switching import Switched, enable
from ...reports import documents
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output

EXAMPLE = "examples:\n  swift-sprout enable tide_board\n  swift-sprout enable pilots --at /pilots --preview"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    parser.add_argument("--at", metavar="PATH", help="the address under which its pages go")
    shared.runs_host(parser)
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    done = enable(opened, options.module, options.at, options.preview)
    if output.wants_json(options):
        output.document(switched_document("swift-sprout/enable/1", opened, done, options.preview))
        return 0
    out = output.terminal(options)
    out.line(f"{'Would enable' if options.preview else 'Enabled'} {out.style(done.module, 'strong')}:")
    changes_text.changes(out, done.changes, with_diff=not out.short)
    for sentence in [*(f"would {turn}" for turn in done.turns if options.preview), *done.already]:
        out.line(f"  – {sentence}")
    changes_text.steps(out, done.steps)
    if not out.short and done.changes:
        changes_text.refreshes(out, opened.refreshes(done.changes))
    if not options.preview and not out.short:
        changes_text.next_steps(out, [f"swift-sprout check {done.module}", f"swift-sprout serve {done.module}"])
    return 0


def switched_document(form: str, opened: OpenHost, done: Switched, preview: bool) -> dict[str, object]:
    """Return the document of a switched module."""
    return {
        "format": form,
        "module": done.module,
        "written": not preview,
        "files": documents.changes(done.changes),
        "turns": done.turns,
        "already": done.already,
        "stays": done.stays,
        "steps": documents.steps(done.steps),
        "refresh": documents.refreshes(opened.refreshes(done.changes)),
    }
