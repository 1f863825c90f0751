"""``swift-sprout test``."""

from __future__ import annotations

import argparse
from pathlib import Path

from ...actions.hosting import open_host
from ...actions.testing import exit_status, run_tests, why_not_well
from ...reports.documents import dump
from ...reports.files import check_ending, write_report
from ...reports.testing import tests_document, tests_junit
from ...reports.text.testing import tests
from .. import options as shared
from .. import output

LIMIT_SECONDS = 600.0
EXAMPLE = """examples:
  swift-sprout test
  swift-sprout test tide_board --failing-first
  swift-sprout test --setup real --setup ci
  swift-sprout test --output tests.xml

Set-ups beside real and sandbox stand in the project's configuration, under [setups.NAME]: settings, environment."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("modules", metavar="MODULE", nargs="*", help="whose tests (default: all modules of the host)")
    parser.add_argument(
        "--setup",
        metavar="real|sandbox|NAME",
        action="append",
        default=[],
        help="in which set-up, repeatable: the host itself, a throw-away copy, or one that the project names",
    )
    parser.add_argument(
        "--failing-first", action="store_true", help="prove in a copy that a test which must fail is seen to"
    )
    parser.add_argument(
        "--output", metavar="FILE", action="append", default=[], help="also write .json or .xml (JUnit)"
    )
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    outputs = [Path(path) for path in options.output]
    for path in outputs:
        check_ending(path, (".json", ".xml"))
    opened = open_host(shared.host_choice(options))
    limit = options.time_limit or LIMIT_SECONDS
    done = run_tests(opened, options.modules, options.setup, limit, options.failing_first)
    document = tests_document(done)
    if output.wants_json(options):
        output.document(document)
    else:
        tests(output.terminal(options), done, options.verbose)
    for path in outputs:
        write_report(path, dump(document) + "\n" if path.suffix == ".json" else tests_junit(done))
    if why := why_not_well(done):
        output.because(why)
    return exit_status(done)
