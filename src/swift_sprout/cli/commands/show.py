"""``swift-sprout show``."""

from __future__ import annotations

import argparse
import fnmatch
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ...actions.hosting import open_host
from ...core.errors import WrongUse
from ...core.nearest import did_you_mean
from ...core.plurals import number_of
from ...hosts.registry import around, kit_named, kits, recognise, recognise_below
from .. import options as shared
from .. import output

if TYPE_CHECKING:
    from ...core.findings import Rule
    from ...hosts.contract.kit import Kit

WHAT = ("names", "routes", "rights", "order", "placements", "files", "rules")
EXAMPLE = """examples:
  swift-sprout show rights berth_register
  swift-sprout show files berth_register
  swift-sprout show rules 'routed.*' -v"""


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("what", metavar="WHAT", help=f"one of: {', '.join(WHAT)}")
    parser.add_argument("of", metavar="MODULE", nargs="*", help="the module; for rules: codes or patterns")
    parser.add_argument("--static", action="store_true", help="read files only, run nothing (rights, order)")
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    if options.what not in WHAT:
        raise WrongUse("show-what", f"There is no table of {options.what!r}.", did_you_mean(options.what, WHAT))
    if options.what == "rules":
        return _rules(options, options.of)
    if len(options.of) != 1:
        raise WrongUse(
            "show-module",
            f"show {options.what} is about one module.",
            f"Write: swift-sprout show {options.what} MODULE",
        )
    from ...actions.showing import table

    found = table(open_host(shared.host_choice(options)), options.what, options.of[0], not options.static)
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/show/1",
                "what": options.what,
                "module": options.of[0],
                "rows": found.as_data(),
                "notes": found.notes,
            }
        )
        return 0
    out = output.terminal(options)
    if found.rows:
        out.grid(found.columns, found.rows)
    for note in found.notes:
        out.wrapped(note, "  ", "– ")
    return 0


def _rules(options: argparse.Namespace, codes: Sequence[str]) -> int:
    def entry(kit: str, rule: Rule) -> dict[str, object]:
        return {"kit": kit, **rule._asdict(), "follows": list(rule.follows)}

    chosen = [(kit.data.id, rule) for kit in _kits_meant(options) for rule in kit.data.rules]
    if codes:
        there = {rule.code for _, rule in chosen}
        for code in codes:
            if not fnmatch.filter(there, code):
                raise WrongUse("rule-unknown", f"There is no rule {code!r}.", did_you_mean(code, there))
        chosen = [(kit, rule) for kit, rule in chosen if any(fnmatch.fnmatch(rule.code, one) for one in codes)]
    if output.wants_json(options):
        output.document({"format": "swift-sprout/rules/1", "rules": [entry(kit, rule) for kit, rule in chosen]})
        return 0
    out = output.terminal(options)
    several = len({kit for kit, _ in chosen}) > 1
    same: dict[Rule, list[str]] = {}  # kits that build on another one have its rules
    for kit, rule in chosen:
        same.setdefault(rule, []).append(kit)
    for rule, of_kits in same.items():
        how = f"check {'MODULE ' if rule.mended_when_named else ''}--mend does it"
        marks = ([", ".join(of_kits)] if several else []) + ([how] if rule.mendable else [])
        mark = f"  ({'; '.join(marks)})" if marks else ""
        out.line(f"{out.style(rule.code, 'strong')}  {rule.severity}{mark}")
        if options.verbose or codes:
            out.wrapped(rule.cause, "          ", "  cause   ")
            out.wrapped(rule.effect, "          ", "  effect  ")
            out.wrapped(rule.mend, "          ", "  remedy  ")
            out.line(
                f"  holds   {'for host versions ' + rule.versions if rule.versions else 'for all checked versions'}"
            )
    if codes and any("{" in rule.cause + rule.mend for rule in same):
        out.line()
        out.wrapped("Words in braces are filled in at the place: names, files and lines as they stand there.")
    if not options.verbose and not codes and not out.short:
        out.line()
        out.line(f"{number_of(len(same), 'rule')}; name some, or give -v, to have them explained.")
    return 0


def _kits_meant(options: argparse.Namespace) -> list[Kit]:
    """Return the kit that is named, or that of the host around or below; all where there is none."""
    if options.kit:
        return [kit_named(options.kit)]
    start = shared.start_of(options)
    found = recognise(around(start)[0], None)
    below = recognise_below(start) if found is None else []
    if found is None and len({kit.data.id for kit, _ in below}) == 1:
        found = below[0]
    return [found[0]] if found is not None else list(kits().values())
