"""``swift-sprout remove``."""

from __future__ import annotations

import argparse

from ...actions.hosting import open_host
from ...actions.removing import remove
from ...core.errors import Refused, WrongUse
from ...core.plurals import number_of
from ...reports import documents
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output, prompts

EXAMPLE = """examples:
  swift-sprout remove tide_board --preview
  swift-sprout remove tide_board --data keep
  swift-sprout remove tide_board --data drop
  swift-sprout remove tide_board --data drop --leftovers drop

With --data drop the rows are first written to a file in your own state folder, then the tables are taken away. With
--leftovers drop the same is done with what the host keeps beside them, on the hosts that tell of it."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    parser.add_argument("--data", choices=("keep", "drop"), default="", help="what becomes of its tables")
    parser.add_argument(
        "--leftovers",
        choices=("keep", "drop"),
        default="keep",
        help="with --data drop: what becomes of what the host keeps beside the tables (content types, permissions, "
        "the module's groups, uploaded files)",
    )
    shared.runs_host(parser)
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    if options.leftovers == "drop" and options.data != "drop":
        raise WrongUse("leftovers-alone", "--leftovers drop goes with --data drop alone.", "Say both, or neither.")
    try:
        done = remove(opened, options.module, options.data, options.preview, options.leftovers)
    except Refused as error:
        if error.code != "data-there" or not prompts.can_ask() or output.wants_json(options):
            raise
        print(error.sentence, *(f"  {one.place}: {one.what}" for one in error.problems), sep="\n")
        word = prompts.ask("keep the tables, or drop them (anything else: stop)")
        if word not in ("keep", "drop"):
            raise
        done = remove(opened, options.module, word, False)
    if output.wants_json(options):
        document = {
            "format": "swift-sprout/remove/1",
            "module": done.module,
            "written": not options.preview,
            "tables": [{"table": table, "rows": rows} for table, rows in done.tables.items()],
            "files": documents.changes(done.changes),
            "steps": documents.steps(done.steps),
            "notes": done.notes,
        }
        output.document(document)
        return 0
    out = output.terminal(options)
    out.line(f"{'Would remove' if options.preview else 'Removed'} {out.style(done.module, 'strong')}:")
    for table, rows in done.tables.items():
        out.line(f"  table {table}, {number_of(rows, 'row')}")
    changes_text.changes(out, done.changes, with_diff=options.verbose)
    changes_text.steps(out, done.steps)
    for sentence in done.notes:
        out.line(f"  – {sentence}")
    if not options.preview and not out.short:
        changes_text.next_steps(
            out, ["swift-sprout check", "swift-sprout undo    takes the files and the entries back"]
        )
    return 0
