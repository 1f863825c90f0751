"""``swift-sprout prove``."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from ...actions.hosting import OpenHost, open_host
from ...actions.packing import prove
from ...reports import documents
from ...reports.text import changes as changes_text
from ...reports.text import check as check_text
from .. import options as shared
from .. import output

EXAMPLE = """example:
  swift-sprout prove tide-board-0.1.0.zip

The host itself is only read: everything happens in a copy, which is removed afterwards."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("archive", metavar="FILE", help="the archive of a module")
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    return proof(opened, Path(options.archive), options, {"format": "swift-sprout/prove/1"})


def proof(opened: OpenHost, archive: Path, options: argparse.Namespace, document: dict[str, Any]) -> int:
    """Prove an archive and show what became of it; ``document`` is what other programs are told besides."""
    proved = prove(opened, archive)
    if output.wants_json(options):
        told = {"module": proved.module, "steps": documents.steps(proved.steps)}
        output.document({**document, **told, "check": documents.check(proved.result)})
        return output.check_status(proved.result)
    out = output.terminal(options)
    out.line()
    changes_text.steps(out, proved.steps)
    out.line()
    check_text.check(out, proved.result, True)
    return output.check_status(proved.result)
