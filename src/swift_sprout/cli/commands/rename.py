"""``swift-sprout rename``."""

from __future__ import annotations

import argparse

from ...actions.hosting import open_host
from ...actions.owners import rename_owner
from ...actions.renaming import Renamed, rename
from ...actions.renamingrecords import rename_record
from ...core.errors import WrongUse
from ...core.plurals import number_of
from ...reports import documents
from ...reports.terminal import Terminal
from ...reports.text import changes as changes_text
from ...reports.text import renaming as text
from .. import options as shared
from .. import output
from .refresh import tell

EXAMPLE = """examples:
  swift-sprout rename berth_register "Mooring list" --preview
  swift-sprout rename berth_register "Mooring list"
  swift-sprout rename pilots "Harbour pilots" --internal pilotage
  swift-sprout rename tide_board "High water" --record Tide
  swift-sprout rename tide_board --owner harbour-office

Changes every spelling of the name in every file of the host: folders, files, imports, registration, addresses,
templates, tables, texts. Places that may mean something else are listed and left, unless you take them."""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("module", metavar="MODULE", help="the module, by any of its names")
    parser.add_argument("name", metavar="NAME", nargs="?", help='its new title, such as "Mooring list"')
    parser.add_argument("--internal", metavar="NAME", default="", help="the internal name, where it is not the title's")
    parser.add_argument("--record", metavar="RECORD", default="", help="rename this record of the module")
    parser.add_argument("--owner", metavar="OWNER", default="", help="who owns it now: the module keeps its own name")
    shared.doubtful(parser)
    shared.runs_host(parser)
    shared.writes(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    _refuse_mixtures(options)
    opened = open_host(shared.host_choice(options))
    take = options.doubtful == "take"
    if options.record:
        renamed = rename_record(opened, options.module, options.record, options.name, take, options.preview)
        verb = f"{'Would rename' if options.preview else 'Renamed'} {options.record} to {options.name} in"
        return tell(options, opened, renamed, verb, f"Nothing in {renamed.module} was changed.")
    if options.owner:
        done = rename_owner(opened, options.module, options.owner, options.preview)
    else:
        done = rename(opened, options.module, options.name, options.internal, take, options.preview)
    if output.wants_json(options):
        output.document(_document(done, not options.preview))
        return 0
    out = output.terminal(options)
    verb = "Would rename" if options.preview else "Renamed"
    out.line(f"{verb} {out.style(done.before, 'strong')} to {out.style(done.after, 'strong')}:")
    if done.there:
        out.wrapped(f"The new name stood in these files {done.there} times before.", "    ", "  ")
    text.plan(out, done.plan, options.preview, options.verbose)
    for note in done.notes:
        out.wrapped(f"– {note}", "    ", "  ")
    text.doubtful(out, done.plan.doubtful, options.verbose)
    if options.preview:
        return 0
    changes_text.steps(out, done.steps)
    _left(out, done, "owner" if options.owner else "name")
    if not out.short:
        module = done.after.rpartition("/")[2]
        changes_text.next_steps(out, [f"swift-sprout check {module}", "swift-sprout undo"])
    return 0


def _refuse_mixtures(options: argparse.Namespace) -> None:
    """Raise WrongUse for options of which one would be left out in silence."""
    if options.owner and (options.name or options.record or options.internal):
        sentence = "--owner changes the owner alone."
        raise WrongUse("one-at-a-time", sentence, "Rename the module or the record with a command of its own.")
    if not options.owner and options.name is None:
        raise WrongUse("name-missing", "There is no new name.", 'Add it behind the module, such as "Mooring list".')
    if options.record and options.internal:
        raise WrongUse("internal-alone", "--internal is a module's; a record's follows from its name.", "Leave it out.")


def _left(out: Terminal, done: Renamed, what: str) -> None:
    """Write where the old name stands now, or the old owner before the name: the proof."""
    kept = {path for path, _ in done.plan.kept}
    on_purpose = [one for one in done.left if one.path in kept]
    others = [one for one in done.left if one.path not in kept]
    out.line()
    if others:
        count = number_of(len(others), "place")
        out.wrapped(f"Searched again: the old {what} stands in {count}.", "  ", "  ")
        text.places(out, others, text.MANY)
    elif on_purpose:
        out.wrapped(
            f"Searched again in every spelling: the old {what} is nowhere left, but where it carries the data:",
            "  ",
            "  ",
        )
    else:
        out.wrapped(f"Searched again in every spelling: the old {what} is nowhere left.", "  ", "  ")
    if on_purpose and others:
        out.wrapped("It carries the data in:", "  ", "  ")
    for path in sorted({one.path for one in on_purpose}):
        out.line(f"    {out.path(path)}")


def _document(done: Renamed, written: bool) -> dict[str, object]:
    def places(found: object) -> list[dict[str, object]]:
        return [one._asdict() for one in found]  # type: ignore[attr-defined]

    return {
        "format": "swift-sprout/rename/1",
        "before": done.before,
        "after": done.after,
        "written": written,
        "moves": dict(done.plan.moves),
        "found": places(done.plan.found),
        "doubtful": places(done.plan.doubtful),
        "kept": [{"path": path, "why": why} for path, why in done.plan.kept],
        "untouched": list(done.plan.untouched),
        "notes": done.notes,
        "left": places(done.left),
        "files": documents.changes(done.changes),
        "steps": documents.steps(done.steps),
    }
