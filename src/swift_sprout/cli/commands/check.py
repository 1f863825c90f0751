"""``swift-sprout check``."""

from __future__ import annotations

import argparse

from ...actions.checking import check, exit_status
from ...actions.hosting import open_host
from .. import options as shared
from .. import output

EXAMPLE = "examples:\n  swift-sprout check tide_board\n  swift-sprout check --static --format json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("modules", metavar="MODULE", nargs="*", help="which modules (default: all of the host)")
    parser.add_argument("--static", action="store_true", help="read files only; run nothing of the host")
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    result = check(opened, options.modules, options.static)
    if output.wants_json(options):
        from ...reports import documents

        output.document(documents.check(result))
    else:
        from ...reports.text import check as check_text

        evidence = options.verbose or (len(options.modules) == 1 and not options.quiet)
        check_text.check(output.terminal(options), result, evidence)
    return exit_status(result)
