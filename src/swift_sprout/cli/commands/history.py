"""``swift-sprout history``."""

from __future__ import annotations

import argparse
from datetime import datetime

from ...actions.hosting import open_host
from ...disk.journal import Done
from .. import options as shared
from .. import output

EXAMPLE = "examples:\n  swift-sprout history\n  swift-sprout history --verbose"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Add the command's arguments."""
    shared.common(parser)


def run(options: argparse.Namespace) -> int:
    """Run the command."""
    opened = open_host(shared.host_choice(options))
    done = list(opened.journal.done())
    if output.wants_json(options):
        output.document({"format": "swift-sprout/history/1", "changes": [_data(one) for one in done]})
        return 0
    out = output.terminal(options)
    if not done:
        out.line("No change set of swift-sprout is kept for this host.")
        return 0
    rows = [[str(int(one.number)), _when(one), one.title, _files(one, options.verbose)] for one in done]
    out.grid(["number", "when", "what", "files"], rows)
    return 0


def _when(one: Done) -> str:
    return datetime.fromtimestamp(one.when).strftime("%Y-%m-%d %H:%M:%S")


def _files(one: Done, all_of_them: bool) -> str:
    if not one.paths:
        return f"none: {one.lasting or 'only the state of the host'}"
    more = len(one.paths) - 1
    return ", ".join(one.paths) if all_of_them or not more else f"{one.paths[0]} and {more} more"


def _data(one: Done) -> dict[str, object]:
    return {
        "number": int(one.number),
        "when": datetime.fromtimestamp(one.when).astimezone().isoformat(timespec="seconds"),
        "title": one.title,
        "files": one.paths,
        "turned": dict(one.turned),
        "lasting": one.lasting,
    }
