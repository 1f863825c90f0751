"""``swift-sprout adopt``."""

from __future__ import annotations

import argparse

from ...actions.adopting import adopt
from ...actions.hosting import open_host
from ...core.parts.kinds import KINDS
from ...reports import documents
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output

EXAMPLE = """examples:
  swift-sprout adopt ferries --preview
  swift-sprout adopt ferries

Reads the parts of a module from its files and writes its brief, sprout.toml; nothing else of the module is changed. A
module that has a brief gets the parts added that its files show and the brief does not name."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    parser.add_argument("--runtime", "--python", metavar="PATH", help="the program that runs the host")
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    done = adopt(opened, options.module, options.preview)
    if output.wants_json(options):
        document = {
            "format": "swift-sprout/adopt/1",
            "module": done.module,
            "written": not options.preview and bool(done.changes),
            "brief": done.brief.as_data(),
            "files": documents.changes(done.changes),
            "left_out": [{"place": place, "what": what} for place, what in done.left_out],
        }
        output.document(document)
        return 0
    out = output.terminal(options)
    if not done.changes:
        out.line(f"The brief of {done.module} names all that its files show; nothing was changed.")
    else:
        out.line(f"{'Would adopt' if options.preview else 'Adopted'} {out.style(done.module, 'strong')}:")
        changes_text.changes(out, done.changes, with_diff=False)
        for kind in KINDS:
            parts = done.brief.parts(kind)
            if parts:
                out.wrapped(", ".join(part.key for part in parts), " " * 14, f"  {kind:<11} ")
    if done.left_out:
        out.line()
        out.line("What the brief cannot say:")
        for place, what in done.left_out:
            out.line(f"  {out.path(place)}: {what}")
    return 0
