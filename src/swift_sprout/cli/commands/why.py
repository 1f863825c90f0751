"""``swift-sprout why``."""

from __future__ import annotations

import argparse

from ...actions.hosting import open_host
from ...core.conditions import Answer, Condition
from ...reports.text import why as why_text
from .. import options as shared
from .. import output

EXAMPLE = "examples:\n  swift-sprout why tide_board /tides\n  swift-sprout why berth_register Booking --as mara"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    parser.add_argument("what", metavar="WHAT", nargs="?", help="an address, record, console command or block of it")
    parser.add_argument(
        "--as",
        dest="person",
        metavar="USER",
        default="visitor",
        help="a user of the host, or visitor, 'signed in', staff, administrator (default: visitor)",
    )
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    answer = opened.host.why(opened.host.find(options.module), options.what, options.person)
    if output.wants_json(options):
        output.document(_document(answer))
    else:
        why_text.why(output.terminal(options), answer)
    if not answer.seen:
        output.because("it is not seen")
    return 0 if answer.seen else 1


def _document(answer: Answer) -> dict[str, object]:
    return {
        "format": "swift-sprout/why/1",
        "module": answer.module,
        "thing": answer.thing,
        "person": answer.person,
        "seen": answer.seen,
        "now": answer.now,
        "conditions": [_condition(one) for one in answer.conditions],
        "commands": answer.commands,
    }


def _condition(condition: Condition) -> dict[str, object]:
    children = [_condition(child) for child in condition.children]
    return {
        "text": condition.text,
        "state": str(condition.state),
        "evidence": condition.evidence,
        "mend": condition.mend,
        "conditions": children,
    }
