"""``swift-sprout add``."""

from __future__ import annotations

import argparse

from ...actions.extending import Added, add
from ...actions.hosting import OpenHost, open_host
from ...core.parts.kinds import KINDS
from ...reports import documents
from ...reports.text import changes as changes_text
from .. import options as shared
from .. import output, prompts

EXAMPLE = """examples:
  swift-sprout add record "Booking: berth -> Berth, vessel text(60), arrives date" --to berth_register
  swift-sprout add page "/berths: Our berths, shows Berth" --to berth_register --preview

parts, each as one line:
  record          Booking: berth -> Berth, vessel text(60), arrives date
  permission      Close a berth, on Berth
  group           Harbour clerks, may read create change Booking, may read Berth
  page            /berths: Our berths, shows Berth, access may read Berth
  page_type       Tide page: station text(80), note long text
  staff_screen    /offers: Offers of the season, shows Season, access may read Season
  endpoint        /api/berths: Berths, shows Berth, access anyone
  menu            Berths, page /berths
  block           Free berths, shows Berth, limit 5
  placement       Free berths, place front page
  command         List berths: Prints the berths, lists Berth, named "limit: integer, default 20"
  service         Berth finder: Finds a free berth, uses Berth, uses clock
  listener        Note a booking, on record saved, of Booking
  setting         season_open: yes/no, default yes, help "Whether berths can be booked"
  product_kind    Lantern: burns choice(oil, candle), height_cm integer
  shipping_method Ferry collection: Fetched from the ferry's deck, price 2.50, free_from 40
  price_rule      Winter lanterns: Two for the dark months, kind Lantern, at_least 2, percent 15
  extension       partner.Partner: landing_place text(40), optional
  sample          Berth, rows "name=A1; depth_m=4.5", rows "name=A2; depth_m=3"
  translation     de, texts Berth=Liegeplatz
  asset           berths.css
"""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("part", metavar="PART", nargs="?", default="", help=f"one of: {', '.join(KINDS)}")
    parser.add_argument("line", metavar="LINE", nargs="?", default="", help="what it is, on one line")
    parser.add_argument("--to", metavar="MODULE", default="", help="the module, by any of its names")
    parser.add_argument("--runtime", "--python", metavar="PATH", help="the program that runs the host")
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    missing = {}
    if not options.part:
        missing["PART"] = f"one of {', '.join(KINDS)}"
    if not options.line:
        missing["LINE"] = "what it is"
    if not options.to:
        missing["--to MODULE"] = "the module that it goes to"
    if missing and not prompts.can_ask():
        raise prompts.missing("swift-sprout add", missing)
    opened = open_host(shared.host_choice(options))
    part = options.part or prompts.ask("Part")
    to = options.to or prompts.ask("To which module", check=opened.host.find)
    line = options.line or prompts.ask(f"The {part}, as one line (see --help)")
    added = add(opened, part, line, to, options.preview)
    if output.wants_json(options):
        output.document(_document(opened, added, options.preview))
        return 0
    out = output.terminal(options)
    if added.already:
        out.line(f"{added.module} has the {added.kind} {added.name} already; nothing was changed.")
        return 0
    verb = "Would add" if options.preview else "Added"
    out.line(f"{verb} the {added.kind} {out.style(added.name, 'strong')} to {added.module}:")
    changes_text.changes(out, added.changes, with_diff=options.preview or options.verbose)
    for sentence in added.left:
        out.line(f"  – {sentence}")
    if not out.short:
        changes_text.refreshes(out, opened.refreshes(added.changes))
        if not options.preview:
            changes_text.next_steps(
                out, [*_due(opened, added), *added.next_steps, f"swift-sprout check {added.module}"]
            )
    return 0


def _due(opened: OpenHost, added: Added) -> list[str]:
    return [
        f"swift-sprout settle {added.module}"
        for refresh in opened.refreshes(added.changes)
        if refresh.kind == "migrate"
    ][:1]


def _document(opened: OpenHost, added: Added, preview: bool) -> dict[str, object]:
    return {
        "format": "swift-sprout/add/1",
        "module": added.module,
        "part": added.kind,
        "name": added.name,
        "written": not preview and bool(added.changes),
        "already": added.already,
        "files": documents.changes(added.changes),
        "left": added.left,
        "refresh": documents.refreshes(opened.refreshes(added.changes)),
        "next": added.next_steps,
    }
