"""``swift-sprout pack``."""

from __future__ import annotations

import argparse

from ...actions.hosting import open_host
from ...actions.packing import pack
from ...core.plurals import number_of
from .. import options as shared
from .. import output
from .prove import proof

EXAMPLE = """examples:
  swift-sprout pack tide_board
  swift-sprout pack tide_board --to out/tide-board.zip --no-proof

The archive is then installed in a copy of the host, enabled and checked there, as `prove` does it."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    parser.add_argument("--to", metavar="FILE", help="where to write it (default: MODULE-VERSION.zip in this folder)")
    parser.add_argument("--no-proof", action="store_true", help="only write it")
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    done = pack(opened, options.module, options.to)
    document = {
        "format": "swift-sprout/pack/1",
        "module": done.module,
        "archive": str(done.path),
        "bytes": done.size,
        "files": done.files,
        "left_out": done.left_out,
    }
    if not output.wants_json(options):
        out = output.terminal(options)
        verb = "Is there already" if done.was_there else "Packed"
        out.line(
            f"{verb}: {out.path(str(done.path))}, {number_of(len(done.files), 'file')}, {number_of(done.size, 'byte')}"
        )
        if done.left_out:
            out.wrapped(f"left out: {', '.join(done.left_out)}", "    ", "  – ")
    if options.no_proof:
        if output.wants_json(options):
            output.document(document)
        return 0
    return proof(opened, done.path, options, document)
