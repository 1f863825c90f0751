"""``swift-sprout settle``."""

from __future__ import annotations

import argparse

from ...actions.hosting import open_host
from ...actions.switching import settle
from ...reports import documents
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output

EXAMPLE = "examples:\n  swift-sprout settle tide_board\n  swift-sprout settle berth_register --samples"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("modules", metavar="MODULE", nargs="*", help="which modules (default: all of the host)")
    parser.add_argument("--samples", action="store_true", help="load their sample data too, without duplicates")
    shared.runs_host(parser)
    shared.waits(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    runs = settle(opened, options.modules, options.samples)
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/settle/1",
                "steps": documents.steps(runs),
                "stale_servers": opened.host.stale_servers(),
            }
        )
        return 0
    out = output.terminal(options)
    if not runs:
        out.line("Nothing is due.")
    changes_text.steps(out, runs)
    for process in opened.host.stale_servers():
        out.line(f"  – restart the server (process {process}): it is older than the files and does not reload")
    return 0
