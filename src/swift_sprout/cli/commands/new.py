"""``swift-sprout new``."""

from __future__ import annotations

import argparse

from ...actions.copying import copy_module
from ...actions.hosting import OpenHost, open_host
from ...actions.making import NewModule, Wanted, make, make_all, part_from_line, plan
from ...core.errors import WrongUse
from ...core.fields import parse_record_line
from ...core.names import name_family
from ...core.plurals import number_of
from ...core.refresh import Refresh
from ...reports import documents
from ...reports.text import changes as changes_text
from ...reports.text import renaming as renaming_text
from .. import options as shared
from .. import output, prompts
from ..patterned import from_pattern

NOT_YET = Refresh("nothing", "the host does not know the module until it is enabled", ())
EXAMPLE = """examples:
  swift-sprout new "Tide board" --page "/tides: Tides today"
  swift-sprout new "Berth register" --record "Berth: name text(40), depth_m decimal(4,1)" \\
      --record "Booking: berth -> Berth (bookings), vessel text(60), state choice(asked, granted)" \\
      --page "/berths: Berths, shows Berth" --summary "Who lies where" --preview
  swift-sprout new --brief berth_register.toml
  swift-sprout new "Mooring list" --like berth_register
  swift-sprout new "Ferry desk" --pattern record-with-pages --record Ferry --record "Foot / Feet"
  swift-sprout new --pattern record-with-pages --from modules.csv

a brief:
  format = "swift-sprout/brief/1"

  [module]
  name = "Tide board"
  summary = "High and low water at the harbour's stations"
  group = "Harbour office"
  needs = ["berth_register"]

  [[record]]
  name = "Tide"
  fields = ["station: text(80)", "high_at: datetime", "height_m: decimal(4,2)", "note: long text, optional"]

  [[page]]
  path = "/tides"
  title = "Tides today"
  shows = "Tide"
  access = "anyone"

field types: text(80), long text, integer, decimal(6,2), number, yes/no, date, time, datetime, duration, email, link,
slug, uuid, json, file, choice(a, b), -> Record, ->> Record (many); options: optional, unique, default …, help "…"
"""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("name", metavar="NAME", nargs="?", default="", help="the module's name, as people read it")
    parser.add_argument("--internal", metavar="NAME", default="", help="the internal name (default: made from NAME)")
    parser.add_argument("--owner", default="", help="who owns it, where a host wants a name of two parts")
    parser.add_argument("--summary", default="", help="one sentence")
    parser.add_argument("--version", default="", help="the module's version (default: 0.1.0)")
    parser.add_argument("--author", default="", help="who wrote it")
    parser.add_argument("--group", default="", help="the group in the host's list of modules")
    parser.add_argument("--licence", default="", help="its licence, such as MIT")
    parser.add_argument("--needs", metavar="MODULE", action="append", default=[], help="another module it needs")
    parser.add_argument("--record", metavar='"NAME: FIELDS"', action="append", default=[], help="a record type")
    parser.add_argument(
        "--page", metavar='"PATH: TITLE"', action="append", default=[], help="a page; also: , shows RECORD, access WHO"
    )
    parser.add_argument("--no-page", action="store_true", help="no page (default: one, or one for each record)")
    parser.add_argument(
        "--brief", metavar="FILE", action="append", default=[], help="read all of this from a brief; repeat for several"
    )
    parser.add_argument("--like", metavar="MODULE", default="", help="make it after a module of this host")
    shared.doubtful(parser, "with --like: ")
    parser.add_argument("--pattern", metavar="NAME", default="", help="make it from a pattern of this host")
    parser.add_argument("--variant", metavar="NAME", default="", help="with --pattern: the variant of it")
    shared.words(parser)
    parser.add_argument(
        "--from", dest="rows", metavar="FILE", default="", help="with --pattern: a module for each row of a list"
    )
    parser.add_argument("--no-check", action="store_true", help="with --from: do not check what was made")
    parser.add_argument("--in", dest="place", metavar="FOLDER", default="", help="where in the host (see survey)")
    parser.add_argument(
        "--runtime", "--python", metavar="PATH", help="the program that runs the host, to know which names are taken"
    )
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    wanted = _wanted(options)
    if options.pattern:
        return from_pattern(opened, options)
    if options.rows or options.word or options.variant or options.no_check:
        sentence = "--from, --word, --variant and --no-check go with --pattern alone."
        raise WrongUse("pattern-options", sentence, "Add --pattern NAME.")
    if options.like:
        return _like(opened, wanted, options)
    if options.doubtful != "leave":
        raise WrongUse("doubtful-alone", "--doubtful goes with --like alone.", "Leave it out.")
    if not wanted.name and not wanted.briefs:
        if not prompts.can_ask():
            raise prompts.missing("swift-sprout new", {"NAME": "the module's name", "or --brief FILE": "a brief"})
        wanted = _asked(wanted)
    if len(wanted.briefs) > 1:
        return _several(make_all(opened, wanted, options.preview), options)
    made = plan(opened, wanted) if options.preview else make(opened, wanted)
    if output.wants_json(options):
        output.document(_document(made, options.preview))
    else:
        _text(made, options)
    return 0


def _like(opened: OpenHost, wanted: Wanted, options: argparse.Namespace) -> int:
    """Make a module after another one."""
    beside = wanted._replace(name="", internal="", author="")
    if not wanted.name or beside != Wanted():
        sentence = "--like takes a name, and beside it --internal, --author and --doubtful alone."
        raise WrongUse("like-alone", sentence, "Make the module first; add what differs with `swift-sprout add`.")
    done = copy_module(
        opened, options.like, wanted.name, wanted.internal, wanted.author, options.doubtful == "take", options.preview
    )
    at = f" --at {done.address}" if done.address else ""
    next_steps = [f"swift-sprout enable {done.module}{at}"] if done.registers else []
    next_steps.append(f"swift-sprout check {done.module}")
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/new-like/1",
                "module": done.module,
                "donor": done.donor,
                "folder": done.folder,
                "written": not options.preview,
                "files": documents.changes(done.changes),
                "doubtful": [one._asdict() for one in done.doubtful],
                "left": [one._asdict() for one in done.left],
                "donors": [{"path": path, "line": line, "text": text} for path, line, text in done.donors],
                "next": next_steps,
            }
        )
        return 0
    out = output.terminal(options)
    count = len(done.changes.changes)
    verb = "Would make" if options.preview else "Made"
    out.line(
        f"{verb} {out.style(done.module, 'strong')} like {done.donor} in {done.folder}/, {number_of(count, 'file')}."
    )
    if not out.short:
        changes_text.changes(out, done.changes, with_diff=options.verbose)
    renaming_text.copied(out, done.doubtful, done.left, done.donors, options.verbose)
    if not options.preview and not out.short:
        changes_text.next_steps(out, next_steps)
    return 0


def _several(made: list[NewModule], options: argparse.Namespace) -> int:
    if output.wants_json(options):
        output.document(
            {"format": "swift-sprout/new-all/1", "modules": [_document(one, options.preview) for one in made]}
        )
        return 0
    out = output.terminal(options)
    for one in made:
        verb = "Would make" if options.preview else "Made"
        out.line(
            f"{verb} {out.style(one.brief.name.title, 'strong')} in {one.folder}/, "
            f"{number_of(len(one.changes.changes), 'file')}"
        )
    return 0


def _wanted(options: argparse.Namespace) -> Wanted:
    return Wanted(
        name=options.name,
        internal=options.internal,
        owner=options.owner,
        summary=options.summary,
        version=options.version,
        author=options.author,
        group=options.group,
        licence=options.licence,
        needs=tuple(options.needs),
        pages=tuple(options.page),
        records=tuple(options.record),
        no_page=options.no_page,
        briefs=tuple(options.brief),
        place=options.place,
    )


def _asked(wanted: Wanted) -> Wanted:
    name = prompts.ask("Name of the module", check=name_family)
    summary = wanted.summary or prompts.ask("Summary, one sentence (may stay empty)")
    records = list(wanted.records)
    while not wanted.records:
        line = prompts.ask(
            'A record as "Name: field, field" (empty: none)' if not records else "Another record (empty: done)",
            check=lambda text: text and parse_record_line(text),
        )
        if not line:
            break
        records.append(line)
    pages = wanted.pages
    if not pages and not records and not wanted.no_page:
        family = name_family(name)
        pages = (
            prompts.ask(
                "Page as PATH: TITLE",
                f"/{family.kebab}: {family.title}",
                check=lambda text: part_from_line("page", text),
            ),
        )
    return wanted._replace(name=name, summary=summary, records=tuple(records), pages=tuple(pages))


def _document(made: NewModule, preview: bool) -> dict[str, object]:
    return {
        "format": "swift-sprout/new/1",
        "module": made.module,
        "folder": made.folder,
        "names": made.brief.name.spellings(),
        "written": not preview,
        "files": documents.changes(made.changes),
        "refresh": documents.refreshes([NOT_YET]),
        "left": made.left,
        "next": made.next_steps,
    }


def _text(made: NewModule, options: argparse.Namespace) -> None:
    out = output.terminal(options)
    count = len(made.changes.changes)
    if options.preview:
        changes_text.names(out, made.brief)
        out.line()
        out.line(f"Would make {made.folder}/ with {number_of(count, 'file')}:")
        changes_text.changes(out, made.changes, with_diff=True)
        return
    end = "." if out.short else ":"
    out.line(f"Made {out.style(made.brief.name.title, 'strong')} in {made.folder}/, {number_of(count, 'file')}{end}")
    if not out.short:
        changes_text.changes(out, made.changes, with_diff=options.verbose)
        for sentence in made.left:
            out.line(f"  – {sentence}")
        changes_text.refreshes(out, [NOT_YET])
        changes_text.next_steps(out, made.next_steps)
