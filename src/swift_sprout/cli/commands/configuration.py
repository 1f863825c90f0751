"""``swift-sprout configuration``."""

from __future__ import annotations

import argparse

from ...actions.hosting import project_around
from .. import options as shared
from .. import output
from ..configuration import held

EXAMPLE = "examples:\n  swift-sprout configuration\n  swift-sprout configuration --format json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    shared.runs_host(parser)
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    values = held(options)
    accepted = project_around(shared.start_of(options)).settings.accept
    if output.wants_json(options):
        output.document(
            {
                "format": "swift-sprout/configuration/1",
                "values": [{"key": one.key, "value": one.value, "source": one.source} for one in values],
                "accepted": [{"finding": one.spelled, "reason": one.reason, "until": one.until} for one in accepted],
            }
        )
        return 0
    out = output.terminal(options)
    out.grid(["key", "value", "comes from"], [[one.key, one.value or "–", out.path(one.source)] for one in values])
    for one in accepted:
        until = f", until {one.until}" if one.until else ""
        out.wrapped(f"accepted: {one.spelled}: {one.reason}{until}", "    ", "  – ")
    return 0
