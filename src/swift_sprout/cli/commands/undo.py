"""``swift-sprout undo``."""

from __future__ import annotations

import argparse

from ...actions.hosting import OpenHost, open_host
from ...actions.undoing import take_over, undo
from ...core.errors import WrongUse
from ...core.plurals import number_of
from ...reports import documents
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output

EXAMPLE = "examples:\n  swift-sprout undo --preview\n  swift-sprout undo 12\n  swift-sprout undo --earlier-state"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument(
        "number",
        metavar="NUMBER",
        nargs="?",
        type=int,
        default=0,
        help="which change set, as history tells (default: the last)",
    )
    parser.add_argument(
        "--earlier-state",
        action="store_true",
        help="check the change sets that an earlier version kept in the host's folder, and take them over",
    )
    parser.add_argument(
        "--pass-over",
        action="store_true",
        help="pass over the last steps in the host's own state, which nothing takes back, to what was done before",
    )
    shared.runs_host(parser)
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    if options.pass_over and options.preview:
        raise WrongUse("arguments", "--pass-over shows no preview.", "Leave --preview out.")
    if options.earlier_state and options.preview:
        raise WrongUse("arguments", "--earlier-state shows no preview.", "Leave --preview out.")
    opened = open_host(shared.host_choice(options))
    if options.earlier_state:
        return _take_over(opened, options)
    done = undo(opened, options.preview, options.pass_over, options.number)
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/undo/1",
                "undone": done.title,
                "written": not options.preview,
                "files": documents.changes(done.changes),
                "turned": dict(done.turns),
                "stays": done.notes,
                "refresh": documents.refreshes(opened.refreshes(done.changes)),
            }
        )
        return 0
    out = output.terminal(options)
    out.line(f"{'Would take back' if options.preview else 'Took back'}: {out.style(done.title, 'strong')}")
    changes_text.changes(out, done.changes, with_diff=options.preview)
    for module, on in done.turns:
        word = "on" if on else "off"
        out.line(f"  – {module} {'would be' if options.preview else 'was'} switched {word} again in the host")
    for note in done.notes:
        out.line(f"  – {note}")
    if not out.short:
        changes_text.refreshes(out, opened.refreshes(done.changes))
    return 0


def _take_over(opened: OpenHost, options: argparse.Namespace) -> int:
    titles = take_over(opened)
    if output.wants_json(options):
        output.document({"format": "swift-sprout/undo/1", "taken_over": titles, "written": True})
        return 0
    out = output.terminal(options)
    out.line(f"Took over {number_of(len(titles), 'change set')}:")
    for title in titles:
        out.line(f"  {title}")
    return 0
