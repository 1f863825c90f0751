"""``swift-sprout demo``."""

from __future__ import annotations

import argparse

from ...actions.demo import build_site, interpreter_for_demo, story
from .. import options as shared
from .. import output

EXAMPLE = "example:\n  swift-sprout demo brindle-quay"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument(
        "folder", metavar="DIR", nargs="?", help="a new folder for the demo site (default: brindle-quay)"
    )
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    from ..main import main

    python = interpreter_for_demo(options.python)
    folder = build_site(options.folder, python)
    colour = ["--no-color"] if options.no_color else []
    return story(output.terminal(options), folder, python, lambda argv: main([*argv, *colour]))
