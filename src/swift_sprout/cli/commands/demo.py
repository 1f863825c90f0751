"""``swift-sprout demo``."""

from __future__ import annotations

import argparse

from ...actions.demo import build_host, story
from ...hosts.registry import kit_named
from .. import options as shared
from .. import output
from ..main import main

EXAMPLE = "examples:\n  swift-sprout demo brindle-quay\n  swift-sprout demo --kit trytond"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument(
        "folder", metavar="DIR", nargs="?", help="a new folder for the demo host (default: brindle-quay)"
    )
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    kit = kit_named(options.kit or "django")
    folder, made = build_host(options.folder, kit, options.runtime)
    colour = ["--no-color"] if options.no_color else []
    return story(output.terminal(options), folder, kit, made, lambda argv: main([*argv, *colour]))
