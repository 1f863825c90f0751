"""``swift-sprout show``."""

from __future__ import annotations

import argparse
import fnmatch

from ...core.errors import WrongUse
from ...core.findings import Rule
from ...core.nearest import did_you_mean
from ...hosts.registry import kit_named, kits
from .. import options as shared
from .. import output

EXAMPLE = "examples:\n  swift-sprout show rules\n  swift-sprout show rules 'routed.*' -v"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    parser.add_argument("what", choices=("rules",), help="what to show")
    parser.add_argument("codes", metavar="CODE", nargs="*", help="which rules, by code or pattern (default: all)")
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    known = [kit_named(options.kit)] if options.kit else list(kits().values())
    chosen = [(kit.data.id, rule) for kit in known for rule in kit.data.rules]
    if options.codes:
        codes = {rule.code for _, rule in chosen}
        for code in options.codes:
            if not fnmatch.filter(codes, code):
                raise WrongUse("rule-unknown", f"There is no rule {code!r}.", did_you_mean(code, codes))
        chosen = [(kit, rule) for kit, rule in chosen if any(fnmatch.fnmatch(rule.code, one) for one in options.codes)]
    if output.wants_json(options):
        output.document({"format": "swift-sprout/rules/1", "rules": [_entry(kit, rule) for kit, rule in chosen]})
        return 0
    out = output.terminal(options)
    for _, rule in chosen:
        mark = "  (check --mend does it)" if rule.mendable else ""
        out.line(f"{out.style(rule.code, 'strong')}  {rule.severity}{mark}")
        if options.verbose or options.codes:
            out.wrapped(rule.cause, "          ", "  cause   ")
            out.wrapped(rule.effect, "          ", "  effect  ")
            out.wrapped(rule.mend, "          ", "  mend    ")
            out.line(
                f"  holds   {'for host versions ' + rule.versions if rule.versions else 'for all checked versions'}"
            )
    if not options.verbose and not options.codes and not out.quiet:
        out.line()
        out.line(f"{len(chosen)} rules; name some, or give -v, to have them explained.")
    return 0


def _entry(kit: str, rule: Rule) -> dict[str, object]:
    return {"kit": kit, **rule._asdict(), "follows": list(rule.follows)}
