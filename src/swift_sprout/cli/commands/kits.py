"""``swift-sprout kits``."""

from __future__ import annotations

import argparse

from ...core.plurals import number_of
from ...hosts.registry import kits, unusable_kits
from .. import options as shared
from .. import output

EXAMPLE = "example:\n  swift-sprout kits --format json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    known = [kit.data for kit in kits().values() if options.kit in (None, kit.data.id)]
    unusable = unusable_kits()
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/kits/1",
                "kits": [
                    {
                        "kit": data.id,
                        "title": data.title,
                        "sort": data.facts.sort,
                        "checked": data.checked,
                        "works": data.facts.works,
                        "needs": data.facts.needs,
                        "limits": data.facts.limits,
                        "parts": data.parts,
                        "rules": len(data.rules),
                    }
                    for data in known
                ],
                "unusable": [
                    {"kit": name, "reason": error.sentence, "remedy": error.remedy} for name, error in unusable.items()
                ],
            }
        )
        return 0
    out = output.terminal(options)
    for data in known:
        out.line(f"{out.style(data.id, 'strong')}  {data.title}, {data.facts.sort}")
        out.line(f"  versions  checked on {', '.join(data.checked)}; works for {data.facts.works}")
        out.wrapped(", ".join(data.facts.needs), " " * 12, "  needs     ")
        if data.facts.limits:
            out.wrapped(data.facts.limits, " " * 12, "  limits    ")
        out.line(f"  rules     {number_of(len(data.rules), 'cause')} known")
        for index, (part, what) in enumerate(data.parts.items()):
            out.wrapped(f"{part}: {what}", " " * 14, "  parts     " if index == 0 else " " * 12)
    for name, error in unusable.items():
        out.line(f"{out.style(name, 'strong')}  cannot be used")
        out.wrapped(f"{error.sentence} {error.remedy}", " " * 12, "  reason    ")
    return 0
