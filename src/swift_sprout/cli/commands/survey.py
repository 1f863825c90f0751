"""``swift-sprout survey``."""

from __future__ import annotations

import argparse

from ...actions.hosting import open_host
from ...core.plurals import number_of
from ...reports import documents
from ...reports.text import survey as survey_text
from .. import options as shared
from .. import output

EXAMPLE = "example:\n  swift-sprout survey --host ~/sites/brindle-quay"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("--static", action="store_true", help="read files only; run nothing of the host")
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    facts = opened.host.facts(live=not options.static)
    out = opened.left_out()
    facts.modules[:] = [module for module in facts.modules if module.name not in out]
    if output.wants_json(options):
        output.document(documents.survey(facts))
    else:
        survey_text.survey(output.terminal(options), facts)
    if facts.missing:
        count = len(facts.missing)
        output.because(f"{number_of(count, 'thing')} missing to work here")
    return 1 if facts.missing else 0
